import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { Link, useNavigate, useParams } from 'react-router';
import { api, good, Refused, type Schemas } from '../api/client';
import { Dialog } from '../frame/Dialog';
import { DialogBar } from '../frame/DialogBar';
import { Field } from '../frame/Field';
import { May, ReadOnlyUnless } from '../frame/May';
import { Nowhere } from '../frame/Nowhere';
import { Failed, Loading, PageHead } from '../frame/Page';
import { AddFact } from './AddFact';
import { AudienceField } from './AudienceField';
import { LengthField } from './LengthField';
import { MenuLinks } from './MenuLinks';
import { Held, type Kind, kinds, type Plural, useFactList } from './RolesPage';

/** One role, group or plan: what it is called, its pages or rule, and what hangs on it. */
export function RolePage() {
  const { kind: plural = '', key = '' } = useParams();
  const known = kinds.find((one) => one.plural === plural);
  return known ? <Known key={`${plural}/${key}`} plural={known.plural} kind={known.kind} name={key} /> : <Nowhere />;
}

function Known({ plural, kind, name }: { plural: Plural; kind: Kind; name: string }) {
  const { t } = useTranslation();
  const go = useNavigate();
  const [act, setAct] = useState<'copy' | 'rename' | 'retire'>();
  const path = { params: { path: { key: name } } };
  const fact = useQuery({ queryKey: [plural, name], queryFn: () => good(api.GET(`/api/v1/${plural}/{key}`, path)) });
  if (fact.isPending) {
    return <Loading />;
  }

  if (fact.isError) {
    return <Failed fault={fact.error} again={() => void fact.refetch()} />;
  }

  const shut = () => setAct(undefined);
  return (
    <>
      <PageHead
        kicker={<Link to="/roles">{t('roles.title')}</Link>}
        title={fact.data.title}
        lead={
          <>
            <code>
              {kind}:{name}
            </code>{' '}
            · <Held fact={fact.data} kind={kind} />
          </>
        }
        tools={
          <May scope="write">
            <button type="button" className="btn" onClick={() => setAct('copy')}>
              {t('roles.copy')}
            </button>
            <button type="button" className="btn" onClick={() => setAct('rename')}>
              {t('roles.rename')}
            </button>
            <button type="button" className="btn danger" onClick={() => setAct('retire')}>
              {t('roles.retire')}
            </button>
          </May>
        }
      />
      <ReadOnlyUnless scope="write">
        <Edit plural={plural} kind={kind} fact={fact.data} />
      </ReadOnlyUnless>
      <Uses plural={plural} name={name} />
      {act === 'copy' && <AddFact plural={plural} like={name} close={shut} added={(key) => go(`/roles/${plural}/${key}`)} />}
      {act === 'rename' && <Rename plural={plural} name={name} close={shut} />}
      {act === 'retire' && <Retire plural={plural} kind={kind} fact={fact.data} close={shut} />}
    </>
  );
}

function Edit({ plural, kind, fact }: { plural: Plural; kind: Kind; fact: Schemas['FactDefinitionView'] }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const [draft, setDraft] = useState({
    title: fact.title,
    home: fact.home ?? '',
    links: fact.links,
    rule: fact.rule ?? '',
    length: fact.length ?? '',
    grace: fact.grace ?? '',
    remind: fact.remind ?? '',
    starts: fact.starts ?? 'at-once',
  });
  const save = useMutation({
    mutationFn: () =>
      good(
        api.PUT(`/api/v1/${plural}/{key}`, {
          params: { path: { key: fact.key } },
          headers: { 'If-Match': `"${fact.version}"` },
          body: {
            title: draft.title,
            ...(kind === 'role' ? { home: draft.home || null, links: draft.links } : {}),
            ...(kind === 'group' ? { rule: draft.rule || null } : {}),
            ...(kind === 'plan'
              ? { length: draft.length || null, grace: draft.grace || null, remind: draft.remind || null, starts: draft.starts }
              : {}),
          },
        }),
      ),
    onSuccess: () => queries.invalidateQueries(),
  });
  const refused = save.error instanceof Refused ? save.error : undefined;
  return (
    <form
      className="sheet part"
      onSubmit={(e) => {
        e.preventDefault();
        save.mutate();
      }}
    >
      {save.isError && !refused?.faults.length && (
        <p className="note" role="alert">
          {save.error.message}
        </p>
      )}
      <Field
        id="title"
        label={t('roles.name')}
        bad={refused?.about('title')}
        value={draft.title}
        onChange={(e) => setDraft({ ...draft, title: e.currentTarget.value })}
      />
      {kind === 'role' && (
        <>
          <Field
            id="home"
            label={t('roles.home')}
            hint={t('roles.homeHint')}
            placeholder="/members"
            bad={refused?.about('home')}
            value={draft.home}
            onChange={(e) => setDraft({ ...draft, home: e.currentTarget.value })}
          />
          <MenuLinks
            title={t('roles.links')}
            hint={t('roles.linksHint')}
            links={draft.links}
            refused={refused}
            set={(links) => setDraft({ ...draft, links })}
          />
        </>
      )}
      {kind === 'plan' && (
        <>
          <LengthField bad={refused?.about('length')} value={draft.length} set={(length) => setDraft({ ...draft, length })} />
          <LengthField
            id="grace"
            label={t('roles.grace')}
            hint={t('roles.graceHint')}
            bad={refused?.about('grace')}
            value={draft.grace}
            set={(grace) => setDraft({ ...draft, grace })}
          />
          <LengthField
            id="remind"
            label={t('roles.remind')}
            hint={t('roles.remindHint')}
            bad={refused?.about('remind')}
            value={draft.remind}
            set={(remind) => setDraft({ ...draft, remind })}
          />
          <Starts bad={refused?.about('starts')} value={draft.starts} set={(starts) => setDraft({ ...draft, starts })} />
        </>
      )}
      {kind === 'group' && (
        <AudienceField
          id="rule"
          label={t('roles.rule')}
          hint={t('roles.ruleHint')}
          bad={refused?.about('rule')}
          value={draft.rule}
          set={(rule) => setDraft({ ...draft, rule })}
        />
      )}
      <div className="deeds">
        <button type="submit" className="btn prime" disabled={save.isPending}>
          {t('roles.save')}
        </button>
        {save.isSuccess && <span role="status">{t('roles.saved')}</span>}
      </div>
    </form>
  );
}

/** When the time that an order pays for begins. */
function Starts({ value, set, bad }: { value: string; set: (starts: string) => void; bad: string | undefined }) {
  const { t } = useTranslation();
  return (
    <Field
      as="select"
      id="starts"
      label={t('roles.starts')}
      hint={t('roles.startsHint')}
      bad={bad}
      value={value}
      onChange={(e) => set(e.currentTarget.value)}
    >
      {(['at-once', 'by-hand', 'on-use'] as const).map((one) => (
        <option key={one} value={one}>
          {t(`roles.startsOf.${one}`)}
        </option>
      ))}
    </Field>
  );
}

const useUses = (plural: Plural, name: string) =>
  useQuery({
    queryKey: [plural, name, 'uses'],
    queryFn: () => good(api.GET(`/api/v1/${plural}/{key}/uses`, { params: { path: { key: name } } })),
  });

function Uses({ plural, name }: { plural: Plural; name: string }) {
  const { t } = useTranslation();
  const uses = useUses(plural, name);
  return (
    <section className="sheet part" aria-label={t('roles.uses')}>
      <header>
        <h2>{t('roles.uses')}</h2>
      </header>
      {uses.data?.named.length === 0 && uses.data.organisations.length === 0 && <p className="hint">{t('roles.usesNone')}</p>}
      <ul className="rows">
        {uses.data?.named.map((use) => (
          <li key={`${use.kind}:${use.key}`}>
            <div>
              {t(`roles.useKinds.${use.kind}`)}{' '}
              {use.kind === 'gate' || use.kind === 'form' ? <Link to={`/${use.kind}s/${use.key}`}>{use.key}</Link> : <b>{use.key}</b>}
              <p className="hint">
                <code>{use.audience}</code>
              </p>
            </div>
          </li>
        ))}
        {uses.data?.organisations.map((key) => (
          <li key={`organisation:${key}`}>
            <div>
              {t('roles.useKinds.organisation')} <Link to={`/organisations/${key}`}>{key}</Link>
              <p className="hint">{t('roles.useOrganisation')}</p>
            </div>
          </li>
        ))}
      </ul>
    </section>
  );
}

function Rename({ plural, name, close }: { plural: Plural; name: string; close: () => void }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const go = useNavigate();
  const [to, setTo] = useState(name);
  const rename = useMutation({
    mutationFn: () => good(api.POST(`/api/v1/${plural}/{key}/rename`, { params: { path: { key: name } }, body: { to } })),
    onSuccess: async () => {
      close();
      go(`/roles/${plural}/${to}`, { replace: true });
      await queries.invalidateQueries();
    },
  });
  const refused = rename.error instanceof Refused ? rename.error : undefined;
  return (
    <Dialog title={t('roles.rename')} close={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          rename.mutate();
        }}
      >
        <p>{t('roles.renameLead')}</p>
        <Field
          id="to"
          label={t('roles.key')}
          bad={refused?.about('to') ?? rename.error?.message}
          value={to}
          onChange={(e) => setTo(e.currentTarget.value)}
        />
        <DialogBar go={t('roles.renameGo')} disabled={rename.isPending || to === name} close={close} />
      </form>
    </Dialog>
  );
}

function Retire({ plural, kind, fact, close }: { plural: Plural; kind: Kind; fact: Schemas['FactDefinitionView']; close: () => void }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const go = useNavigate();
  const others = (useFactList(plural).data?.items ?? []).filter((one) => !one.builtIn && one.key !== fact.key);
  const uses = useUses(plural, fact.key).data;
  const [to, setTo] = useState('');
  const named = uses?.named.length ?? 0;
  const retire = useMutation({
    mutationFn: () => good(api.POST(`/api/v1/${plural}/{key}/retire`, { params: { path: { key: fact.key } }, body: to ? { to } : {} })),
    onSuccess: async () => {
      close();
      go('/roles', { replace: true });
      await queries.invalidateQueries();
    },
  });
  return (
    <Dialog title={t('roles.retireTitle', { title: fact.title })} close={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          retire.mutate();
        }}
      >
        {retire.isError && (
          <p className="note" role="alert">
            {retire.error.message}
          </p>
        )}
        <p>
          {t('roles.retireHeld', { count: uses?.members ?? fact.members })} {t('roles.retireNamed', { count: named })}
        </p>
        <Field
          as="select"
          id="retire-to"
          label={t('roles.retireTo')}
          value={to}
          required={named > 0}
          onChange={(e) => setTo(e.currentTarget.value)}
        >
          <option value="">{t(named > 0 ? 'roles.retireMust' : 'roles.retireNone')}</option>
          {others.map((one) => (
            <option key={one.key} value={one.key}>
              {one.title}
            </option>
          ))}
        </Field>
        <p className="hint">{t(to ? `roles.retireMoves.${kind}` : 'roles.retireEnds')}</p>
        <DialogBar go={t('roles.retireGo')} disabled={retire.isPending} danger close={close} />
      </form>
    </Dialog>
  );
}
