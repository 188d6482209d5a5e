import { useQuery } from '@tanstack/react-query';
import { useTranslation } from 'react-i18next';
import { Link, useNavigate } from 'react-router';
import { api, good } from '../api/client';
import { moment } from '../frame/dates';
import { May } from '../frame/May';
import { Empty, Failed, Loading, PageHead } from '../frame/Page';

/** The terms that members agree to. */
export function TermsPage() {
  const { t } = useTranslation();
  const go = useNavigate();
  const terms = useQuery({ queryKey: ['terms'], queryFn: () => good(api.GET('/api/v1/terms')) });
  const add = (
    <May scope="write">
      <button type="button" className="btn prime" onClick={() => go('/terms/new')}>
        {t('terms.add')}
      </button>
    </May>
  );
  return (
    <>
      <PageHead title={t('terms.title')} lead={t('terms.lead')} tools={add} />
      {terms.isPending && <Loading />}
      {terms.isError && <Failed fault={terms.error} again={() => void terms.refetch()} />}
      {terms.data?.items.length === 0 && <Empty title={t('terms.empty')} lead={t('terms.emptyLead')} />}
      {terms.data && terms.data.items.length > 0 && (
        <ul className="letters">
          {terms.data.items.map(({ terms: one, who, versions }) => {
            const counts = versions.find((version) => version.state === 'in-force');
            const coming = versions.find((version) => version.state === 'announced');
            return (
              <li key={one.key} className="sheet">
                <div>
                  <b>
                    <Link to={`/terms/${one.key}`}>{one.title}</Link>
                  </b>
                  <p>
                    {t(one.optional ? 'terms.askedOptional' : 'terms.asked', { who })}
                    {counts && ` · ${t('terms.agreed', { count: counts.agreed, number: counts.number })}`}
                  </p>
                  {coming && <p className="gives">{t('terms.coming', { number: coming.number, at: moment(coming.from) })}</p>}
                </div>
                {counts && (
                  <a className="address" href={counts.address} target="_blank" rel="noreferrer">
                    {new URL(counts.address).pathname}
                  </a>
                )}
              </li>
            );
          })}
        </ul>
      )}
    </>
  );
}
