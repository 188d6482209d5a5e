import { useQuery } from '@tanstack/react-query';
import { useTranslation } from 'react-i18next';
import { Link, useParams, useSearchParams } from 'react-router';
import { api, good, type Schemas } from '../api/client';
import { Field } from '../frame/Field';
import { Empty, Failed, Loading, PageHead } from '../frame/Page';
import { TextRows } from './TextRows';

const which = ['missing', 'own', 'yours', 'all'] as const;
type Which = (typeof which)[number];
const keeps: Record<Which, (text: Schemas['TextView']) => boolean> = {
  missing: (text) => text.isMissing,
  own: (text) => text.isOwners,
  yours: (text) => text.own !== null && text.own !== undefined,
  all: () => true,
};
const places: Record<string, string> = { form: '/forms', field: '/forms', terms: '/terms', letter: '/letters/words' };

/** One language: what it lacks, and every text in it. */
export function LanguagePage() {
  const { t } = useTranslation();
  const { language = '' } = useParams();
  const [said, say] = useSearchParams();
  const texts = useQuery({
    queryKey: ['texts', language],
    queryFn: () => good(api.GET('/api/v1/texts/{language}', { params: { path: { language } } })),
  });
  if (texts.isError) {
    return <Failed fault={texts.error} again={() => void texts.refetch()} />;
  }

  if (!texts.data) {
    return <Loading />;
  }

  const { data } = texts;
  const show = which.find((one) => one === said.get('show')) ?? (data.texts.some(keeps.missing) ? 'missing' : 'all');
  const sought = (said.get('q') ?? '').toLowerCase();
  const rows = data.texts.filter(
    (text) => keeps[show](text) && `${text.key} ${text.shown} ${text.original}`.toLowerCase().includes(sought),
  );
  const set = (name: string, value: string) => say({ show, q: said.get('q') ?? '', [name]: value }, { replace: true });
  return (
    <>
      <PageHead
        kicker={<Link to="/pages">{t('pages.title')}</Link>}
        title={<span lang={language}>{data.language.name}</span>}
        lead={t(data.language.isOurs ? 'pages.languageLead' : 'pages.languageLeadOwn')}
      />
      <section className="sheet">
        <div className="filters">
          <Field as="select" id="texts-show" label={t('pages.show')} value={show} onChange={(e) => set('show', e.currentTarget.value)}>
            {which.map((one) => (
              <option key={one} value={one}>
                {t(`pages.which.${one}`, { count: data.texts.filter(keeps[one]).length })}
              </option>
            ))}
          </Field>
          <Field
            id="texts-q"
            label={t('pages.search')}
            type="search"
            value={said.get('q') ?? ''}
            onChange={(e) => set('q', e.currentTarget.value)}
          />
        </div>
        {rows.length === 0 && <Empty title={t('pages.noneTitle')} lead={t('pages.none')} />}
        <TextRows key={language} texts={data} rows={rows} />
      </section>
      {data.elsewhere.length > 0 && show === 'missing' && (
        <section className="sheet elsewhere">
          <h2>{t('pages.elsewhere')}</h2>
          {Object.entries(places).map(([kind, to]) => {
            const all = data.elsewhere.filter((one) => one.kind === kind);
            return (
              all.length > 0 && (
                <p key={kind}>
                  <Link to={to}>{t(`pages.kinds.${kind}`, { count: all.length })}</Link> {all.map((one) => one.title).join(' · ')}
                </p>
              )
            );
          })}
        </section>
      )}
    </>
  );
}
