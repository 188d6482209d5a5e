import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { Link, useSearchParams } from 'react-router';
import { api, good, type Schemas } from '../api/client';
import { day } from '../frame/dates';
import { May } from '../frame/May';
import { Empty, Failed, Loading, PageHead } from '../frame/Page';
import { useSettled } from '../frame/useSettled';
import { useFactList } from '../People/RolesPage';
import { EditPass } from './EditPass';
import { ImportPasses } from './ImportPasses';
import { OnePass } from './OnePass';
import { ToldPass } from './ToldPass';

type Pass = Schemas['PassView'];
const standings = ['in-force', 'later', 'used-up', 'over', 'withdrawn'] as const;

/** How often a pass was used, of how many times. */
export const usesOf = (pass: Pass) => (pass.mostUses === null ? `${pass.uses}` : `${pass.uses} / ${pass.mostUses}`);

/** From how many networks a pass was used lately, of how many. */
export const networksOf = (pass: Pass) => (pass.mostNetworks === null ? `${pass.networks}` : `${pass.networks} / ${pass.mostNetworks}`);

/** Passes, the newest first: whose they are, how they stand, how often they were used. */
export function PassesPage() {
  const { t } = useTranslation();
  const [asked, setAsked] = useSearchParams();
  const [words, setWords] = useState('');
  const [standing, setStanding] = useState('');
  const [most, setMost] = useState(50);
  const [open, setOpen] = useState<Pass | 'new' | 'file'>();
  const [told, setTold] = useState<Pass>();
  const kind = asked.get('kind') ?? '';
  const q = useSettled(words, 250);
  const kinds = useFactList('pass-kinds');
  const query = { limit: most, ...(q ? { q } : {}), ...(kind ? { kind } : {}), ...(standing ? { standing } : {}) };
  const passes = useQuery({ queryKey: ['passes', query], queryFn: () => good(api.GET('/api/v1/passes', { params: { query } })) });
  const found = passes.data?.items ?? [];
  const hasKinds = (kinds.data?.items.length ?? 0) > 0;
  const shut = () => setOpen(undefined);
  const tools = (
    <>
      <Link className="btn" to="/roles#pass-kinds">
        {t('passes.kinds')}
      </Link>
      <May scope="people">
        <button type="button" className="btn" disabled={!hasKinds} onClick={() => setOpen('file')}>
          {t('passes.bring')}
        </button>
        <button type="button" className="btn prime" disabled={!hasKinds} onClick={() => setOpen('new')}>
          {t('passes.add')}
        </button>
      </May>
    </>
  );
  return (
    <>
      <PageHead title={t('passes.title')} lead={t('passes.lead')} tools={tools} />
      <div className="finder">
        <input
          className="field"
          type="search"
          aria-label={t('passes.find')}
          placeholder={t('passes.find')}
          value={words}
          onChange={(e) => setWords(e.currentTarget.value)}
        />
        <select
          className="field"
          aria-label={t('passes.kind')}
          value={kind}
          onChange={(e) => setAsked(e.currentTarget.value ? { kind: e.currentTarget.value } : {}, { replace: true })}
        >
          <option value="">{t('passes.allKinds')}</option>
          {kinds.data?.items.map((one) => (
            <option key={one.key} value={one.key}>
              {one.title}
            </option>
          ))}
        </select>
        <select className="field" aria-label={t('passes.standing')} value={standing} onChange={(e) => setStanding(e.currentTarget.value)}>
          <option value="">{t('passes.all')}</option>
          {standings.map((one) => (
            <option key={one} value={one}>
              {t(`passes.standings.${one}`)}
            </option>
          ))}
        </select>
      </div>
      {passes.isPending && <Loading />}
      {passes.isError && <Failed fault={passes.error} again={() => void passes.refetch()} />}
      {passes.isSuccess && found.length === 0 && (
        <Empty
          title={t(q || kind || standing ? 'passes.none' : 'passes.empty')}
          lead={t(q || kind || standing ? 'passes.noneLead' : hasKinds ? 'passes.emptyLead' : 'passes.emptyFirst')}
        />
      )}
      {found.length > 0 && <Table passes={found} open={setOpen} />}
      {passes.data?.next && (
        <button type="button" className="btn" onClick={() => setMost(most + 100)}>
          {t('passes.more')}
        </button>
      )}
      {open === 'new' && <EditPass kinds={kinds.data?.items ?? []} close={shut} done={setTold} />}
      {open === 'file' && <ImportPasses close={shut} />}
      {typeof open === 'object' && <OnePass pass={open} kinds={kinds.data?.items ?? []} close={shut} told={setTold} />}
      {told?.password && <ToldPass pass={told} close={() => setTold(undefined)} />}
    </>
  );
}

function Table({ passes, open }: { passes: Pass[]; open: (pass: Pass) => void }) {
  const { t } = useTranslation();
  return (
    <div className="people">
      <table>
        <thead>
          <tr>
            <th scope="col">{t('passes.holder')}</th>
            <th scope="col">{t('passes.name')}</th>
            <th scope="col">{t('passes.state')}</th>
            <th scope="col">{t('passes.uses')}</th>
            <th scope="col">{t('passes.networks')}</th>
          </tr>
        </thead>
        <tbody>
          {passes.map((pass) => (
            <tr key={pass.id}>
              <td>
                <button type="button" className="link" onClick={() => open(pass)}>
                  <b>{pass.holder}</b>
                </button>
                <br />
                <small>{pass.kindTitle}</small>
              </td>
              <td>
                <code>{pass.name}</code>
              </td>
              <td>
                <span className={pass.standing === 'in-force' ? 'state' : 'state off'}>{t(`passes.standings.${pass.standing}`)}</span>
                {pass.untilText && (
                  <>
                    <br />
                    <small>{t('passes.ends', { when: pass.untilText })}</small>
                  </>
                )}
              </td>
              <td>
                {usesOf(pass)}
                {pass.lastUsedAt && (
                  <>
                    <br />
                    <small>{t('passes.last', { when: day(pass.lastUsedAt) })}</small>
                  </>
                )}
              </td>
              <td>{networksOf(pass)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
