import { useQuery } from '@tanstack/react-query';
import { useTranslation } from 'react-i18next';
import { Link } from 'react-router';
import { api, good } from '../api/client';
import { Failed, Loading, PageHead } from '../frame/Page';

/** The letters that there are, and which of them are in the owner's own words. */
export function WordsPage() {
  const { t } = useTranslation();
  const kinds = useQuery({ queryKey: ['letter-kinds'], queryFn: () => good(api.GET('/api/v1/letter-templates')) });
  return (
    <>
      <PageHead kicker={<Link to="/letters">{t('letters.title')}</Link>} title={t('words.title')} lead={t('words.lead')} />
      {kinds.isPending && <Loading />}
      {kinds.isError && <Failed fault={kinds.error} again={() => void kinds.refetch()} />}
      {kinds.isSuccess && (
        <ul className="rows sheet kinds">
          {kinds.data.items.map((kind) => (
            <li key={kind.key}>
              <div>
                <Link to={`/letters/words/${kind.key}`}>
                  <b>{kind.title}</b>
                </Link>{' '}
                {kind.own.length > 0 && <span className="state">{t('words.own', { languages: kind.own.join(', ') })}</span>}
                <p className="hint">{kind.about}</p>
              </div>
              <code>{kind.key}</code>
            </li>
          ))}
        </ul>
      )}
    </>
  );
}
