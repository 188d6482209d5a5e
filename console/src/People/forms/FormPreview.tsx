import { useTranslation } from 'react-i18next';
import { api } from '../../api/client';
import type { FormDraft } from './draft';
import { PagePreview } from './PagePreview';

/** The page of a form as the visitor sees it, while it is edited. */
export function FormPreview({ name, draft }: { name: string; draft: FormDraft }) {
  const { t } = useTranslation();
  return (
    <PagePreview
      name={`forms/${name}`}
      draft={JSON.stringify({ ...draft, title: draft.title || t('forms.new') })}
      ask={(form) =>
        api.POST('/api/v1/forms/{key}/preview', {
          params: { path: { key: name } },
          body: { answers: {}, form: JSON.parse(form) as FormDraft },
        })
      }
      title={t('forms.preview')}
      hint={t('forms.previewHint')}
    />
  );
}
