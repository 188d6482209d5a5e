import { useQuery } from '@tanstack/react-query';
import { useTranslation } from 'react-i18next';
import { api, good, Refused } from '../../api/client';
import { useSettled } from '../../frame/useSettled';
import type { FormDraft } from './draft';

/** The page as the visitor sees it, while it is edited; what it says of a draft that does not hold stands in its place. */
export function FormPreview({ name, draft }: { name: string; draft: FormDraft }) {
  const { t } = useTranslation();
  const settled = useSettled(JSON.stringify({ ...draft, title: draft.title || t('forms.new') }), 600);
  const page = useQuery({
    queryKey: ['form-preview', name, settled],
    queryFn: () =>
      good(
        api.POST('/api/v1/forms/{key}/preview', {
          params: { path: { key: name } },
          body: { answers: {}, form: JSON.parse(settled) as FormDraft },
        }),
      ),
    staleTime: Number.POSITIVE_INFINITY,
    placeholderData: (before) => before,
  });
  const refused = page.error instanceof Refused ? page.error : undefined;
  return (
    <aside className="form-preview" aria-label={t('forms.preview')}>
      {page.isError && (
        <ul className="note" role="status">
          {(refused?.faults.length ? refused.faults : [{ field: '', message: page.error.message }]).map((one) => (
            <li key={one.field + one.message}>
              {one.field && <code>{one.field}</code>} {one.message}
            </li>
          ))}
        </ul>
      )}
      {page.data && <iframe title={t('forms.preview')} src={page.data.address} />}
      <p className="hint">{t('forms.previewHint')}</p>
    </aside>
  );
}
