import { useQuery } from '@tanstack/react-query';
import { useTranslation } from 'react-i18next';
import { api, good } from '../../api/client';
import type { FormDraft } from './draft';

/** Which terms a form asks for: those that are for everybody, or some that are named. */
export function FormTerms({ draft, set }: { draft: FormDraft; set: (change: Partial<FormDraft>) => void }) {
  const { t } = useTranslation();
  const terms = useQuery({ queryKey: ['terms'], queryFn: () => good(api.GET('/api/v1/terms')) });
  if (!terms.data?.items.length) {
    return null;
  }

  const named = draft.terms ?? null;
  return (
    <fieldset className="bare">
      <legend className="name">{t('forms.terms')}</legend>
      <label className="opt">
        <input type="checkbox" checked={named === null} onChange={(e) => set({ terms: e.currentTarget.checked ? null : [] })} />
        <span>{t('forms.termsUsual')}</span>
      </label>
      {named !== null &&
        terms.data.items.map(({ terms: one }) => (
          <label key={one.key} className="opt">
            <input
              type="checkbox"
              checked={named.includes(one.key ?? '')}
              onChange={(e) => set({ terms: e.currentTarget.checked ? [...named, one.key ?? ''] : named.filter((key) => key !== one.key) })}
            />
            <span>{one.title}</span>
          </label>
        ))}
    </fieldset>
  );
}
