import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useTranslation } from 'react-i18next';
import { Link } from 'react-router';
import { api, good, type Schemas } from '../api/client';
import { Failed, Loading, PageHead } from '../frame/Page';
import { WrittenPages } from '../Hosted/WrittenPages';
import { useMay } from '../People/me';

/** The pages that visitors see, and the languages that they are in. */
export function PagesPage() {
  const { t } = useTranslation();
  const pages = useQuery({ queryKey: ['visitor-pages'], queryFn: () => good(api.GET('/api/v1/visitor-pages')) });
  const languages = useQuery({ queryKey: ['texts'], queryFn: () => good(api.GET('/api/v1/texts')) });
  const fault = pages.error ?? languages.error;
  return (
    <>
      <PageHead
        title={t('pages.title')}
        lead={t('pages.lead')}
        tools={
          <Link className="btn" to="/pages/look">
            {t('look.title')}
          </Link>
        }
      />
      {fault && <Failed fault={fault} again={() => void Promise.all([pages.refetch(), languages.refetch()])} />}
      {!fault && !(pages.data && languages.data) && <Loading />}
      {pages.data && languages.data && (
        <>
          <WrittenPages />
          <h2>{t('pages.ours')}</h2>
          <p className="hint">{t('pages.oursHint')}</p>
          <div className="sheet scroll">
            <table className="plain">
              <thead>
                <tr>
                  <th>{t('pages.page')}</th>
                  <th>{t('pages.use')}</th>
                  <th>{t('pages.stands')}</th>
                  <th>{t('pages.menu')}</th>
                </tr>
              </thead>
              <tbody>
                {pages.data.items.map((page) => (
                  <tr key={page.key}>
                    <td>
                      <Link to={`/pages/${page.key}`}>
                        <b>{page.title}</b>
                      </Link>
                    </td>
                    <td>{t(`pages.uses.${page.use}`)}</td>
                    <td>
                      {page.off ? (
                        <span className="state">{t('pages.off')}</span>
                      ) : page.stands ? (
                        <code>{page.stands}</code>
                      ) : (
                        t('pages.anywhere')
                      )}
                    </td>
                    <td>{page.menu ? t('pages.inMenu') : ''}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
          <h2>{t('pages.languages')}</h2>
          <p className="hint">{t('pages.languagesHint')}</p>
          <Languages all={languages.data.items} />
        </>
      )}
    </>
  );
}

function Languages({ all }: { all: Schemas['LanguageView'][] }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const may = useMay('write');
  const offer = useMutation({
    mutationFn: ({ language, offered }: { language: string; offered: boolean }) => {
      const now = all.filter((one) => one.isOffered && one.language !== language).map((one) => one.language);
      const wanted = offered ? [...now, language] : now;
      // All of them is what nobody has to say: a language that comes later is among them.
      const body = { languages: wanted.length === all.length ? [] : wanted };
      return good(api.PUT('/api/v1/settings', { body: body as Schemas['SettingsDraft'], headers: { 'If-Match': '*' } }));
    },
    onSettled: () => queries.invalidateQueries(),
  });
  return (
    <div className="sheet scroll">
      {offer.isError && (
        <p className="note" role="alert">
          {offer.error.message}
        </p>
      )}
      <table className="plain">
        <thead>
          <tr>
            <th>{t('pages.language')}</th>
            <th>{t('pages.offered')}</th>
            <th>{t('pages.yours')}</th>
            <th>{t('pages.missing')}</th>
          </tr>
        </thead>
        <tbody>
          {all.map((one) => (
            <tr key={one.language}>
              <td>
                <Link to={`/pages/languages/${one.language}`} lang={one.language}>
                  <b>{one.name}</b>
                </Link>{' '}
                <code>{one.language}</code>
              </td>
              <td>
                {one.isSites ? (
                  t('pages.sites')
                ) : (
                  <label className="tick">
                    <input
                      type="checkbox"
                      checked={one.isOffered}
                      disabled={!may || offer.isPending}
                      onChange={(e) => offer.mutate({ language: one.language, offered: e.currentTarget.checked })}
                    />{' '}
                    {t('pages.offer')}
                  </label>
                )}
              </td>
              <td>{one.own || ''}</td>
              <td>{one.missing > 0 ? t('pages.lacks', { count: one.missing }) : t('pages.complete')}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
