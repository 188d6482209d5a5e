import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { Link, useNavigate } from 'react-router';
import { api, good, type Schemas } from '../api/client';
import { May } from '../frame/May';
import { Failed, Loading, PageHead } from '../frame/Page';
import { AddFact } from './AddFact';

export const kinds = [
  { plural: 'roles', kind: 'role' },
  { plural: 'groups', kind: 'group' },
  { plural: 'plans', kind: 'plan' },
  { plural: 'pass-kinds', kind: 'pass' },
] as const;
export type Plural = (typeof kinds)[number]['plural'];
export type Kind = (typeof kinds)[number]['kind'];

/** Roles, groups and plans, how many hold each; and the staff rights, which are none of them. */
export function RolesPage() {
  const { t } = useTranslation();
  const go = useNavigate();
  const [adding, setAdding] = useState<Plural>();
  return (
    <>
      <PageHead title={t('roles.title')} lead={t('roles.lead')} />
      {kinds.map(({ plural, kind }) => (
        <section key={plural} id={plural} className="sheet part" aria-label={t(`roles.${plural}`)}>
          <header>
            <h2>{t(`roles.${plural}`)}</h2>
            <May scope="write">
              <button type="button" className="btn" onClick={() => setAdding(plural)}>
                {t(`roles.add.${kind}`)}
              </button>
            </May>
          </header>
          <p className="hint">{t(`roles.about.${plural}`)}</p>
          <FactList plural={plural} kind={kind} />
        </section>
      ))}
      <StaffRights />
      {adding && <AddFact plural={adding} close={() => setAdding(undefined)} added={(key) => go(`/roles/${adding}/${key}`)} />}
    </>
  );
}

export const useFactList = (plural: Plural) => useQuery({ queryKey: [plural], queryFn: () => good(api.GET(`/api/v1/${plural}`)) });

function FactList({ plural, kind }: { plural: Plural; kind: string }) {
  const { t } = useTranslation();
  const all = useFactList(plural);
  if (all.isPending) {
    return <Loading lines={2} />;
  }

  if (all.isError) {
    return <Failed fault={all.error} again={() => void all.refetch()} />;
  }

  const own = all.data.items.filter((fact) => !fact.builtIn);
  return own.length === 0 ? (
    <p className="hint">{t(`roles.none.${plural}`)}</p>
  ) : (
    <ul className="rows">
      {own.map((fact) => (
        <li key={fact.key}>
          <div>
            <Link to={`/roles/${plural}/${fact.key}`}>
              <b>{fact.title}</b>
            </Link>{' '}
            <code>
              {kind}:{fact.key}
            </code>
            {fact.rule && <span className="state exempt">{t('roles.byRule')}</span>}
            <p className="hint">{saidOf(fact, t)}</p>
          </div>
          <Held fact={fact} kind={kind} />
        </li>
      ))}
    </ul>
  );
}

const saidOf = (fact: Schemas['FactDefinitionView'], t: (key: string, values?: Record<string, unknown>) => string) =>
  [
    fact.rule,
    fact.home && t('roles.homeIs', { address: fact.home }),
    fact.links.length > 0 && t('roles.linksAre', { count: fact.links.length }),
  ]
    .filter(Boolean)
    .join(' · ');

/** How many were given it, and the way to who they are. */
export function Held({ fact, kind }: { fact: Schemas['FactDefinitionView']; kind: string }) {
  const { t } = useTranslation();
  if (kind === 'pass') {
    return (
      <Link className="quiet" to={`/passes?kind=${fact.key}`}>
        {t('roles.passes', { count: fact.members })}
      </Link>
    );
  }

  return (
    <Link className="quiet" to={`/members?holds=${kind}:${fact.key}`}>
      {t(fact.rule ? 'roles.heldByRule' : 'roles.held', { count: fact.members })}
    </Link>
  );
}

function StaffRights() {
  const { t } = useTranslation();
  const roles = useFactList('roles');
  const staff = roles.data?.items.filter((role) => role.builtIn) ?? [];
  return (
    <section className="sheet part" aria-label={t('roles.staff')}>
      <header>
        <h2>{t('roles.staff')}</h2>
      </header>
      <p className="hint">{t('roles.about.staff')}</p>
      <ul className="rows">
        {staff.map((right) => (
          <li key={right.key}>
            <div>
              <b>{right.title}</b>
              <p className="hint">{t(`roles.rights.${right.key}`)}</p>
            </div>
            <Held fact={right} kind="role" />
          </li>
        ))}
      </ul>
    </section>
  );
}
