import { useQueryClient } from '@tanstack/react-query';
import { useTranslation } from 'react-i18next';
import { choose, reader, type Tongue as Spoken, spoken } from '../words/i18n';

/** The language of the console, to choose: what stands there stays, and is said anew. */
export function Tongue() {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const read = async (language: Spoken) => {
    await choose(language);
    await queries.invalidateQueries();
  };
  return (
    <select
      className="tongue"
      aria-label={t('rail.language')}
      value={reader()}
      onChange={(event) => void read(event.target.value as Spoken)}
    >
      {Object.entries(spoken).map(([tag, name]) => (
        <option key={tag} value={tag} lang={tag}>
          {name}
        </option>
      ))}
    </select>
  );
}
