import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Suspense, useState } from 'react';
import { useTranslation } from 'react-i18next';
import { NavLink, Outlet, useLocation } from 'react-router';
import { api, good } from '../api/client';
import { useMe } from '../People/me';
import { Lantern } from './Lantern';
import { number } from './numbers';
import { OutOfReach } from './OutOfReach';
import { Loading } from './Page';
import { Tongue } from './Tongue';
import { Unreadable } from './Unreadable';

/** The rail and the page beside it. */
export function Frame() {
  const { t } = useTranslation();
  const me = useMe();
  const queries = useQueryClient();
  const { pathname } = useLocation();
  const [unfoldedAt, setUnfoldedAt] = useState('');
  const status = useQuery({ queryKey: ['status'], queryFn: () => good(api.GET('/api/v1/status')) });
  const requests = useQuery({ queryKey: ['requests', 'counts'], queryFn: () => good(api.GET('/api/v1/requests/counts')) });
  const waiting = (requests.data?.waiting ?? 0) + (requests.data?.held ?? 0);
  const signOut = async () => {
    await api.POST('/api/v1/sign-out');
    queries.clear();
    window.location.assign('/');
  };
  const unfolded = unfoldedAt === pathname;
  return (
    <div className="app">
      <nav className="rail" aria-label={t('rail.main')}>
        <div className="brand">
          <Lantern />
          <b>{t('brand')}</b>
          <button type="button" className="burger" aria-expanded={unfolded} onClick={() => setUnfoldedAt(unfolded ? '' : pathname)}>
            {t('rail.menu')}
          </button>
        </div>
        <div className={unfolded ? 'fold unfolded' : 'fold'}>
          <div className="site">
            {status.data?.siteName ?? '…'}
            <span>{status.data ? t('rail.guards', { count: status.data.gatesInForce }) : ' '}</span>
          </div>
          <ul>
            <Entry to="/today" words={t('rail.today')} />
          </ul>
          <h2>{t('rail.restrict')}</h2>
          <ul>
            <Entry to="/gates" words={t('rail.gates')} count={status.data?.gates} />
            <Entry to="/board" words={t('rail.board')} />
            <Entry to="/catalogue" words={t('rail.catalogue')} count={status.data?.items} />
            <Entry to="/folders" words={t('rail.folders')} />
            <Entry to="/shows" words={t('rail.shows')} />
          </ul>
          <h2>{t('rail.people')}</h2>
          <ul>
            <Entry to="/members" words={t('rail.members')} count={status.data?.members} />
            <Entry to="/requests" words={t('rail.requests')} count={waiting || undefined} />
            <Entry to="/organisations" words={t('rail.organisations')} />
            <Entry to="/roles" words={t('rail.roles')} />
            <Entry to="/passes" words={t('rail.passes')} />
            <Entry to="/delivered" words={t('rail.delivered')} />
            <Entry to="/forms" words={t('rail.forms')} />
            <Entry to="/terms" words={t('rail.terms')} />
            <Entry to="/directory" words={t('rail.directory')} />
            <Entry to="/redirects" words={t('rail.redirects')} />
          </ul>
          <h2>{t('rail.sells')}</h2>
          <ul>
            <Entry to="/orders" words={t('rail.orders')} />
            <Entry to="/fulfilment" words={t('rail.fulfilment')} />
            <Entry to="/prices" words={t('rail.prices')} />
            <Entry to="/ends" words={t('rail.ends')} />
            <Entry to="/figures" words={t('rail.figures')} />
          </ul>
          <h2>{t('rail.check')}</h2>
          <ul>
            <Entry to="/viewpoint" words={t('rail.viewpoint')} />
            <Entry to="/sweep" words={t('rail.sweep')} />
            <Entry to="/history" words={t('rail.history')} />
          </ul>
          <h2>{t('rail.site')}</h2>
          <ul>
            <Entry to="/pages" words={t('rail.pages')} />
            <Entry to="/letters" words={t('rail.letters')} count={status.data?.lettersGivenUp || undefined} />
            <Entry to="/set-up" words={t('rail.setUp')} />
            <Entry to="/settings" words={t('rail.settings')} />
          </ul>
        </div>
        <div className={unfolded ? 'fold unfolded me' : 'fold me'}>
          {me.email || me.name}
          <br />
          <button type="button" onClick={signOut}>
            {t('rail.signOut')}
          </button>
          <Tongue />
        </div>
      </nav>
      <main>
        <OutOfReach fault={status.data?.originFault} />
        <Unreadable faults={status.data?.faults ?? []} />
        <Suspense fallback={<Loading />}>
          <Outlet />
        </Suspense>
      </main>
    </div>
  );
}

function Entry({ to, words, count }: { to: string; words: string; count?: number | undefined }) {
  return (
    <li>
      <NavLink to={to}>
        {words} {count !== undefined && <em>{number(count)}</em>}
      </NavLink>
    </li>
  );
}
