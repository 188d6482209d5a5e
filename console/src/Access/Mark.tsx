import { useTranslation } from 'react-i18next';

export type SightWord = 'open' | 'listed' | 'hidden' | 'part';

/** What a cell of the board comes to, as mark and word: "listed", or "open+part" where something beneath differs. */
export function sightOf(cell: string): SightWord {
  return cell.endsWith('+part') ? 'part' : (cell as SightWord);
}

/** A state by mark and word, not by colour alone. */
export function Mark({ sight }: { sight: SightWord }) {
  const { t } = useTranslation();
  return <span className={`m ${sight}`}>{t(`sight.${sight}`)}</span>;
}

/** Says what the marks mean. */
export function MarkKey() {
  const { t } = useTranslation();
  return (
    <p className="key">
      {(['open', 'listed', 'hidden', 'part'] as const).map((sight) => (
        <span key={sight}>
          <Mark sight={sight} /> {t(`sight.${sight}Key`)}
        </span>
      ))}
    </p>
  );
}
