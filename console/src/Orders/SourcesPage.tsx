import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { Link } from 'react-router';
import { api, good, Refused, type Schemas } from '../api/client';
import { Dialog } from '../frame/Dialog';
import { DialogBar } from '../frame/DialogBar';
import { Field } from '../frame/Field';
import { May } from '../frame/May';
import { Empty, Failed, Loading, PageHead } from '../frame/Page';
import { Mapping } from './Mapping';

type Source = Schemas['OrderSourceView'];
export type SourceDraft = {
  key: string;
  title: string;
  proof: string;
  header: string;
  timestampHeader: string;
  prefix: string;
  base64: boolean;
  sha512: boolean;
  fields: Record<string, string>;
  kinds: Record<string, string>;
  inUnits: boolean;
  currency: string;
  checkout: string;
  opensDoor: boolean;
};

/** What is said of a source, as the API takes it: what is empty is left out. */
export const bodyOf = ({ key: _, ...draft }: SourceDraft) =>
  Object.fromEntries(Object.entries(draft).filter(([, value]) => value !== '')) as Schemas['OrderSourceDraft'];

/** Who tells of orders by web hook. */
export function SourcesPage() {
  const { t } = useTranslation();
  const [edit, setEdit] = useState<Source | 'new'>();
  const [secret, setSecret] = useState<{ title: string; secret: string }>();
  const sources = useQuery({ queryKey: ['order-sources'], queryFn: () => good(api.GET('/api/v1/order-sources')) });
  const all = sources.data?.items ?? [];
  const queries = useQueryClient();
  const rekey = useMutation({
    mutationFn: (source: Source) =>
      good(api.POST('/api/v1/order-sources/{key}/secret', { params: { path: { key: source.key } }, body: {} })),
    onSuccess: (told, source) => {
      setSecret({ title: source.title, secret: told.secret });
      return queries.invalidateQueries();
    },
  });
  const add = (
    <May scope="write">
      <button type="button" className="btn prime" onClick={() => setEdit('new')}>
        {t('orders.source.add')}
      </button>
    </May>
  );
  return (
    <>
      <PageHead
        kicker={<Link to="/orders">{t('orders.title')}</Link>}
        title={t('orders.source.title')}
        lead={t('orders.source.lead')}
        tools={add}
      />
      {secret && <Secret {...secret} close={() => setSecret(undefined)} />}
      {rekey.error && (
        <p className="note" role="alert">
          {rekey.error.message}
        </p>
      )}
      {sources.isPending && <Loading />}
      {sources.isError && <Failed fault={sources.error} again={() => void sources.refetch()} />}
      {sources.isSuccess && all.length === 0 && <Empty title={t('orders.source.empty')} lead={t('orders.source.emptyLead')} />}
      <ul className="letters">
        {all.map((source) => (
          <li className="sheet" key={source.key}>
            <div>
              <b>{source.title}</b>{' '}
              <span className={source.hasSecret ? 'state' : 'state broken'}>
                {t(source.hasSecret ? 'orders.source.signed' : 'orders.source.unsigned')}
              </span>
              <p>
                {t('orders.source.hook')} <code>{source.hook}</code>
              </p>
              <p className="hint">
                {t(`orders.source.proofs.${source.proof}`)} ·{' '}
                {t(Object.keys(source.fields).length ? 'orders.source.mapped' : 'orders.source.plain')}
                {source.opensDoor && ` · ${t('orders.source.door')}`}
              </p>
            </div>
            <May scope="write">
              <div className="letter-acts">
                <button type="button" className="btn" onClick={() => setEdit(source)}>
                  {t('orders.source.change')}
                </button>
                <button type="button" className="btn" disabled={rekey.isPending} onClick={() => rekey.mutate(source)}>
                  {t(source.hasSecret ? 'orders.source.rekey' : 'orders.source.key')}
                </button>
              </div>
            </May>
          </li>
        ))}
      </ul>
      {edit && <EditSource source={edit === 'new' ? undefined : edit} close={() => setEdit(undefined)} />}
    </>
  );
}

/** Tells a secret, once. */
function Secret({ title, secret, close }: { title: string; secret: string; close: () => void }) {
  const { t } = useTranslation();
  return (
    <Dialog title={t('orders.source.told', { title })} close={close}>
      <p>{t('orders.source.toldLead')}</p>
      <p className="told" aria-live="polite">
        <code>{secret}</code>
      </p>
      <footer className="bar">
        <button type="button" className="btn" onClick={() => void navigator.clipboard.writeText(secret)}>
          {t('member.copy')}
        </button>
        <button type="button" className="btn prime" onClick={close}>
          {t('member.noted')}
        </button>
      </footer>
    </Dialog>
  );
}

function EditSource({ source, close }: { source: Source | undefined; close: () => void }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const [draft, setDraft] = useState<SourceDraft>({
    key: source?.key ?? '',
    title: source?.title ?? '',
    proof: source?.proof ?? 'standard',
    header: source?.header ?? '',
    timestampHeader: source?.timestampHeader ?? '',
    prefix: source?.prefix ?? '',
    base64: source?.base64 ?? false,
    sha512: source?.sha512 ?? false,
    fields: source?.fields ?? {},
    kinds: source?.kinds ?? {},
    inUnits: source?.inUnits ?? false,
    currency: source?.currency ?? '',
    checkout: source?.checkout ?? '',
    opensDoor: source?.opensDoor ?? false,
  });
  const done = async () => {
    await queries.invalidateQueries();
    close();
  };
  const params = { params: { path: { key: draft.key } } };
  const save = useMutation({
    mutationFn: () => good(api.PUT('/api/v1/order-sources/{key}', { ...params, body: bodyOf(draft) })),
    onSuccess: done,
  });
  const remove = useMutation({ mutationFn: () => good(api.DELETE('/api/v1/order-sources/{key}', params)), onSuccess: done });
  const refused = save.error instanceof Refused ? save.error : undefined;
  const fault = save.error ?? remove.error;
  const put = (field: keyof SourceDraft) => (e: { currentTarget: { value: string } }) =>
    setDraft({ ...draft, [field]: e.currentTarget.value });
  const tick = (field: 'base64' | 'sha512' | 'opensDoor') => (
    <label className="opt">
      <input type="checkbox" checked={draft[field]} onChange={(e) => setDraft({ ...draft, [field]: e.currentTarget.checked })} />
      <span>{t(`orders.source.${field}`)}</span>
    </label>
  );
  return (
    <Dialog title={t(source ? 'orders.source.change' : 'orders.source.add')} close={close}>
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
        <div className="pair">
          <Field
            id="source-title"
            label={t('orders.source.name')}
            required
            bad={refused?.about('title')}
            value={draft.title}
            onChange={put('title')}
          />
          <Field
            id="source-key"
            label={t('orders.source.inAddress')}
            required
            disabled={source !== undefined}
            pattern="[a-z0-9][a-z0-9._\-]*"
            bad={refused?.about('key')}
            value={draft.key}
            onChange={put('key')}
          />
        </div>
        <Field as="select" id="source-proof" label={t('orders.source.proof')} value={draft.proof} onChange={put('proof')}>
          {(['standard', 'body', 'timestamp-body', 'token'] as const).map((proof) => (
            <option key={proof} value={proof}>
              {t(`orders.source.proofs.${proof}`)}
            </option>
          ))}
        </Field>
        {draft.proof !== 'standard' && (
          <>
            <div className="pair">
              <Field
                id="source-header"
                label={t('orders.source.header')}
                required
                bad={refused?.about('header')}
                value={draft.header}
                onChange={put('header')}
              />
              <Field
                id="source-prefix"
                label={t('orders.source.prefix')}
                placeholder="sha256="
                bad={refused?.about('prefix')}
                value={draft.prefix}
                onChange={put('prefix')}
              />
            </div>
            {draft.proof === 'timestamp-body' && (
              <Field
                id="source-stamp"
                label={t('orders.source.timestampHeader')}
                required
                bad={refused?.about('timestampHeader')}
                value={draft.timestampHeader}
                onChange={put('timestampHeader')}
              />
            )}
            {draft.proof !== 'token' && (
              <>
                {tick('base64')}
                {tick('sha512')}
              </>
            )}
          </>
        )}
        <Mapping draft={draft} set={setDraft} refused={refused} />
        <Field
          id="source-checkout"
          label={t('orders.source.checkout')}
          hint={t('orders.source.checkoutHint')}
          bad={refused?.about('checkout')}
          value={draft.checkout}
          onChange={put('checkout')}
        />
        {tick('opensDoor')}
        <DialogBar
          go={t('roles.save')}
          disabled={save.isPending}
          close={close}
          first={
            source && (
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
