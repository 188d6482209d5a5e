import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { Link } from 'react-router';
import { api, good, Refused, type Schemas } from '../api/client';
import { Dialog } from '../frame/Dialog';
import { DialogBar } from '../frame/DialogBar';
import { Field } from '../frame/Field';
import { freeKey } from '../frame/freeKey';
import { May } from '../frame/May';
import { Empty, Failed, Loading, PageHead } from '../frame/Page';
import { useSettled } from '../frame/useSettled';
import { LengthField } from '../People/LengthField';
import { useMay } from '../People/me';
import { kinds, type Plural, useFactList } from '../People/RolesPage';
import { Would } from './AddOrder';

type Rule = Schemas['FulfilmentView'];

/** What orders give, a sentence for each stock code. */
export function FulfilmentPage() {
  const { t } = useTranslation();
  const [edit, setEdit] = useState<Rule | 'new'>();
  const rules = useQuery({ queryKey: ['fulfilment'], queryFn: () => good(api.GET('/api/v1/fulfilment')) });
  const all = rules.data?.items ?? [];
  const add = (
    <May scope="write">
      <button type="button" className="btn prime" onClick={() => setEdit('new')}>
        {t('orders.rule.add')}
      </button>
    </May>
  );
  return (
    <>
      <PageHead
        kicker={<Link to="/orders">{t('orders.title')}</Link>}
        title={t('orders.rule.title')}
        lead={t('orders.rule.lead')}
        tools={add}
      />
      {rules.isPending && <Loading />}
      {rules.isError && <Failed fault={rules.error} again={() => void rules.refetch()} />}
      {rules.isSuccess && all.length === 0 && <Empty title={t('orders.rule.empty')} lead={t('orders.rule.emptyLead')} />}
      {all.length > 0 && (
        <ol className="redirects">
          {all.map((rule) => (
            <li key={rule.key}>
              <button type="button" className="says" onClick={() => setEdit(rule)}>
                {rule.sentence}
                <code>{rule.code}</code>
              </button>
            </li>
          ))}
        </ol>
      )}
      {edit && <EditRule rule={edit === 'new' ? undefined : edit} taken={all} close={() => setEdit(undefined)} />}
    </>
  );
}

function EditRule({ rule, taken, close }: { rule: Rule | undefined; taken: Rule[]; close: () => void }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const may = useMay('write');
  const [draft, setDraft] = useState({
    code: rule?.code ?? '',
    gives: rule?.gives ?? [],
    length: rule?.length ?? '',
    trial: rule?.trial ?? '',
    way: rule?.way ?? 'account',
    quantity: rule?.quantity ?? 'nothing',
    most: rule?.most ? String(rule.most) : '',
    landsOn: rule?.landsOn ?? '',
    gate: rule?.gate ?? '',
  });
  const tells = draft.way === 'shared-password';
  const key = rule?.key ?? freeKey(draft.code, taken, 'rule');
  const body = {
    code: draft.code,
    gives: tells ? [] : draft.gives,
    way: draft.way,
    quantity: tells ? 'nothing' : draft.quantity,
    ...(tells ? { gate: draft.gate } : {}),
    ...(draft.length ? { length: draft.length } : {}),
    ...(draft.trial ? { trial: draft.trial } : {}),
    ...(draft.most ? { most: Number(draft.most) } : {}),
    ...(draft.landsOn ? { landsOn: draft.landsOn } : {}),
  };
  const asked = useSettled(
    JSON.stringify({
      key,
      draft: body,
      lines: [
        { code: draft.code.replaceAll('*', 'X').split('/')[0], ...(draft.code.includes('/') ? { variant: draft.code.split('/')[1] } : {}) },
      ],
    }),
    300,
  );
  const trial = useQuery({
    queryKey: ['fulfilment', 'try', asked],
    enabled: draft.code !== '' && (tells ? draft.gate !== '' : draft.gives.length > 0),
    retry: false,
    queryFn: () => good(api.POST('/api/v1/fulfilment/try', { body: JSON.parse(asked) })),
  });
  const done = async () => {
    await queries.invalidateQueries();
    close();
  };
  const save = useMutation({
    mutationFn: () => good(api.PUT('/api/v1/fulfilment/{key}', { params: { path: { key } }, body })),
    onSuccess: done,
  });
  const remove = useMutation({
    mutationFn: () => good(api.DELETE('/api/v1/fulfilment/{key}', { params: { path: { key } } })),
    onSuccess: done,
  });
  const refused = save.error instanceof Refused ? save.error : undefined;
  const fault = save.error ?? remove.error;
  const put = (field: 'code' | 'way' | 'quantity' | 'most' | 'landsOn' | 'gate') => (e: { currentTarget: { value: string } }) =>
    setDraft({ ...draft, [field]: e.currentTarget.value });
  return (
    <Dialog title={t(rule ? 'orders.rule.change' : 'orders.rule.add')} close={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          save.mutate();
        }}
      >
        {fault && !refused?.faults.length && (
          <p className="note" role="alert">
            {fault.message}
          </p>
        )}
        <p className="sentence" aria-live="polite">
          {trial.data?.sentence ?? rule?.sentence ?? t('orders.rule.unsaid')}
        </p>
        <fieldset className="bare" disabled={!may}>
          <Field
            id="rule-code"
            label={t('orders.code')}
            hint={t('orders.rule.codeHint')}
            required
            bad={refused?.about('code')}
            value={draft.code}
            onChange={put('code')}
          />
          <Field as="select" id="rule-way" label={t('orders.rule.way')} bad={refused?.about('way')} value={draft.way} onChange={put('way')}>
            {(['account', 'password', 'link', 'shared-password'] as const).map((way) => (
              <option key={way} value={way}>
                {t(`orders.rule.ways.${way}`)}
              </option>
            ))}
          </Field>
          {tells ? (
            <PasswordGate value={draft.gate} set={put('gate')} bad={refused?.about('gate')} />
          ) : (
            <Gives value={draft.gives} set={(gives) => setDraft({ ...draft, gives })} bad={refused?.about('gives')} />
          )}
          {!tells && (
            <>
              <LengthField brief bad={refused?.about('length')} value={draft.length} set={(length) => setDraft({ ...draft, length })} />
              <p className="hint">{t('orders.rule.lengthHint')}</p>
              <LengthField
                brief
                id="trial"
                label={t('orders.rule.trial')}
                bad={refused?.about('trial')}
                value={draft.trial}
                set={(trial) => setDraft({ ...draft, trial })}
              />
              <p className="hint">{t('orders.rule.trialHint')}</p>
            </>
          )}
          {!tells && (
            <Field
              as="select"
              id="rule-quantity"
              label={t('orders.rule.quantity')}
              bad={refused?.about('quantity')}
              value={draft.quantity}
              onChange={put('quantity')}
            >
              {(['nothing', 'lengths', 'seats'] as const).map((one) => (
                <option key={one} value={one}>
                  {t(`orders.rule.quantities.${one}`)}
                </option>
              ))}
            </Field>
          )}
          <div className="pair">
            <Field
              id="rule-most"
              label={t('orders.rule.most')}
              type="number"
              min={1}
              placeholder={t('orders.rule.any')}
              bad={refused?.about('most')}
              value={draft.most}
              onChange={put('most')}
            />
            <Field
              id="rule-lands"
              label={t('orders.rule.lands')}
              placeholder="/members"
              bad={refused?.about('landsOn')}
              value={draft.landsOn}
              onChange={put('landsOn')}
            />
          </div>
        </fieldset>
        {trial.data && <Would sentences={trial.data.would} />}
        <DialogBar
          go={may ? t('roles.save') : null}
          disabled={save.isPending}
          close={close}
          first={
            rule &&
            may && (
              <button type="button" className="btn danger" disabled={remove.isPending} onClick={() => remove.mutate()}>
                {t('redirects.remove')}
              </button>
            )
          }
        />
      </form>
    </Dialog>
  );
}

/** The gate whose shared password a letter tells: one whose audience asks for a password. */
function PasswordGate({
  value,
  set,
  bad,
}: {
  value: string;
  set: (e: { currentTarget: { value: string } }) => void;
  bad: string | undefined;
}) {
  const { t } = useTranslation();
  const gates = useQuery({ queryKey: ['gates'], queryFn: () => good(api.GET('/api/v1/gates')) });
  const asking = gates.data?.items.filter((gate) => /\bpassword\b/.test(gate.audience ?? '')) ?? [];
  return (
    <Field as="select" id="rule-gate" label={t('orders.rule.gate')} hint={t('orders.rule.gateHint')} bad={bad} value={value} onChange={set}>
      <option value="">{t('orders.rule.noGate')}</option>
      {asking.map((gate) => (
        <option key={gate.key} value={gate.key}>
          {gate.title}
        </option>
      ))}
    </Field>
  );
}

const kindOf = (plural: Plural) => kinds.find((one) => one.plural === plural)?.kind;

/** What an order gives: plans, roles, groups, and items by their names. */
function Gives({ value, set, bad }: { value: string[]; set: (gives: string[]) => void; bad: string | undefined }) {
  const { t } = useTranslation();
  const [item, setItem] = useState('');
  const words = useSettled(item, 250);
  const items = useQuery({
    queryKey: ['items', 'pick', words],
    enabled: words.length > 1,
    queryFn: () => good(api.GET('/api/v1/items', { params: { query: { search: words, limit: 8 } } })),
  });
  const facts = (['plans', 'roles', 'groups', 'pass-kinds'] as const).flatMap((plural) => {
    const list = useFactList(plural).data?.items.filter((fact) => !fact.builtIn) ?? [];
    return list.map((fact) => ({ name: `${kindOf(plural)}:${fact.key}`, title: fact.title, kind: plural }));
  });
  const flip = (name: string) => set(value.includes(name) ? value.filter((one) => one !== name) : [...value, name]);
  const bought = value.filter((name) => name.startsWith('bought:'));
  return (
    <fieldset className="bare gives" aria-describedby={bad ? 'gives-bad' : undefined}>
      <legend className="name">{t('orders.rule.gives')}</legend>
      {facts.map((fact) => (
        <label className="opt" key={fact.name}>
          <input type="checkbox" checked={value.includes(fact.name)} onChange={() => flip(fact.name)} />
          <span>
            {fact.title} <small>{t(`orders.rule.kinds.${fact.kind}`)}</small>
          </span>
        </label>
      ))}
      {bought.map((name) => (
        <label className="opt" key={name}>
          <input type="checkbox" checked onChange={() => flip(name)} />
          <span>
            <code>{name.slice(7)}</code>
          </span>
        </label>
      ))}
      <Field id="rule-item" label={t('orders.rule.item')} type="search" value={item} onChange={(e) => setItem(e.currentTarget.value)} />
      {words.length > 1 &&
        items.data?.items.map((found) => (
          <button
            type="button"
            className="link"
            key={found.id}
            onClick={() => {
              flip(`bought:${found.id}`);
              setItem('');
            }}
          >
            {found.title} <code>{found.id}</code>
          </button>
        ))}
      {bad && (
        <p className="bad" id="gives-bad">
          {bad}
        </p>
      )}
    </fieldset>
  );
}
