import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { Link } from 'react-router';
import { api, good, Refused, type Schemas } from '../api/client';
import { Field } from '../frame/Field';
import { Failed, Loading, PageHead } from '../frame/Page';
import { AudienceField } from './AudienceField';
import { useMay } from './me';

/** The directory of members who agreed to stand in it: who may look, and what can be shown. */
export function DirectoryPage() {
  const directory = useQuery({ queryKey: ['directory'], queryFn: () => good(api.GET('/api/v1/directory')) });
  const fields = useQuery({ queryKey: ['fields'], queryFn: () => good(api.GET('/api/v1/fields')) });
  if (directory.isError) {
    return <Failed fault={directory.error} again={() => void directory.refetch()} />;
  }

  return directory.data && fields.data ? (
    <Editor key={directory.data.version} there={directory.data} fields={fields.data.items.map((one) => one.field)} />
  ) : (
    <Loading />
  );
}

function Editor({ there, fields }: { there: Schemas['DirectoryView']; fields: Schemas['FieldDraft'][] }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const may = useMay('write');
  const [draft, setDraft] = useState(there.directory);
  const set = (change: Partial<Schemas['DirectoryDraft']>) => setDraft({ ...draft, ...change });
  const shown = draft.fields ?? [];
  const offered = fields.filter((field) => field.kind !== 'file' && field.kind !== 'consent');
  const save = useMutation({
    mutationFn: () => good(api.PUT('/api/v1/directory', { body: draft, headers: { 'If-Match': `"${there.version}"` } })),
    onSuccess: () => queries.invalidateQueries(),
  });
  const refused = save.error instanceof Refused ? save.error : undefined;
  return (
    <>
      <PageHead
        title={t('directory.title')}
        lead={t('directory.lead')}
        tools={
          may && (
            <button type="button" className="btn prime" disabled={save.isPending} onClick={() => save.mutate()}>
              {t('directory.save')}
            </button>
          )
        }
      />
      {save.error && (
        <div className="note" role="alert">
          {save.error.message}
        </div>
      )}
      {save.isSuccess && (
        <p className="hint" role="status">
          {t('directory.saved')}
        </p>
      )}
      <fieldset className="bare" disabled={!may}>
        <section className="sheet part">
          <h2>{t('directory.who')}</h2>
          <label className="opt">
            <input
              type="checkbox"
              checked={!!draft.audience}
              onChange={(e) => set({ audience: e.currentTarget.checked ? 'signed-in' : null })}
            />
            <span>{t('directory.on')}</span>
          </label>
          {draft.audience && (
            <AudienceField
              id="directory-audience"
              label={t('directory.audience')}
              hint={t('directory.audienceHint')}
              bad={refused?.about('audience')}
              value={draft.audience}
              set={(audience) => set({ audience })}
            />
          )}
          <p className="hint">
            {t('directory.listed', { count: there.listed })}{' '}
            {there.who && (
              <a href={there.address} target="_blank" rel="noreferrer">
                {t('directory.look')}
              </a>
            )}
          </p>
        </section>
        <section className="sheet part">
          <h2>{t('directory.shows')}</h2>
          <p className="hint">{t('directory.showsLead')}</p>
          {offered.length === 0 && (
            <p>
              {t('directory.noFields')} <Link to="/forms">{t('rail.forms')}</Link>
            </p>
          )}
          {offered.map((field) => (
            <label key={field.key} className="opt">
              <input
                type="checkbox"
                checked={shown.includes(field.key ?? '')}
                onChange={(e) =>
                  set({ fields: e.currentTarget.checked ? [...shown, field.key ?? ''] : shown.filter((key) => key !== field.key) })
                }
              />
              <span>{field.label}</span>
            </label>
          ))}
        </section>
        <section className="sheet part">
          <h2>{t('forms.parts.words')}</h2>
          <Field
            id="directory-title"
            label={t('forms.words.title')}
            bad={refused?.about('title')}
            value={draft.title ?? ''}
            onChange={(e) => set({ title: e.currentTarget.value || null })}
          />
          <Field
            as="textarea"
            id="directory-lead"
            label={t('forms.words.lead')}
            bad={refused?.about('lead')}
            value={draft.lead ?? ''}
            onChange={(e) => set({ lead: e.currentTarget.value || null })}
          />
        </section>
      </fieldset>
    </>
  );
}
