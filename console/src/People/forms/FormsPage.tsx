import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { Link, useNavigate } from 'react-router';
import { api, good, type Schemas } from '../../api/client';
import { May } from '../../frame/May';
import { Empty, Failed, Loading, PageHead } from '../../frame/Page';
import { EditField } from './EditField';

/** The forms by which people join, and the fields that they are made of. */
export function FormsPage() {
  const { t } = useTranslation();
  const go = useNavigate();
  const [edit, setEdit] = useState<Schemas['FieldView'] | 'new'>();
  const forms = useQuery({ queryKey: ['forms'], queryFn: () => good(api.GET('/api/v1/forms')) });
  const fields = useQuery({ queryKey: ['fields'], queryFn: () => good(api.GET('/api/v1/fields')) });
  const settings = useQuery({ queryKey: ['settings'], queryFn: () => good(api.GET('/api/v1/settings')) });
  const add = (
    <May scope="write">
      <button type="button" className="btn prime" onClick={() => go('/forms/new')}>
        {t('forms.add')}
      </button>
    </May>
  );
  return (
    <>
      <PageHead title={t('forms.title')} lead={t('forms.lead')} tools={add} />
      {forms.isPending && <Loading />}
      {forms.isError && <Failed fault={forms.error} again={() => void forms.refetch()} />}
      {forms.data?.items.length === 0 && <Empty title={t('forms.empty')} lead={t('forms.emptyLead')} />}
      {forms.data && forms.data.items.length > 0 && (
        <ul className="letters">
          {forms.data.items.map(({ form, address, gives, broken }, at) => (
            <li key={form.key} className="sheet">
              <div>
                <b>
                  <Link to={`/forms/${form.key}`}>{form.title}</Link>
                </b>
                <p>
                  {t(`forms.ways.${form.way ?? settings.data?.joining.way ?? 'closed'}`)} ·{' '}
                  {t('forms.count', { count: (form.sections ?? []).reduce((sum, section) => sum + (section.fields?.length ?? 0), 0) })}
                  {at === 0 && ` · ${t('forms.first')}`}
                </p>
                {gives.map((line) => (
                  <p key={line} className="gives">
                    {line}
                  </p>
                ))}
                {broken && <p className="bad">{t('forms.broken', { why: broken })}</p>}
              </div>
              <a className="address" href={address} target="_blank" rel="noreferrer">
                {new URL(address).pathname}
              </a>
            </li>
          ))}
        </ul>
      )}
      <section className="under">
        <h2>{t('forms.fields')}</h2>
        <p className="hint">{t('forms.fieldsLead')}</p>
        {fields.data && fields.data.items.length > 0 && (
          <div className="scroll">
            <table className="plain">
              <thead>
                <tr>
                  <th>{t('forms.field.label')}</th>
                  <th>{t('forms.field.kind')}</th>
                  <th>{t('forms.field.profile')}</th>
                  <th>{t('forms.field.used')}</th>
                </tr>
              </thead>
              <tbody>
                {fields.data.items.map((one) => (
                  <tr key={one.field.key}>
                    <td>
                      <button type="button" className="link" onClick={() => setEdit(one)}>
                        {one.field.label}
                      </button>{' '}
                      <code>{one.field.key}</code>
                    </td>
                    <td>{t(`forms.kinds.${one.field.kind ?? 'text'}`)}</td>
                    <td>{t(`forms.profiles.${one.field.profile ?? 'hidden'}`)}</td>
                    <td>{one.forms.join(', ') || '–'}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
        )}
        <May scope="write">
          <button type="button" className="btn" onClick={() => setEdit('new')}>
            {t('forms.field.add')}
          </button>
        </May>
      </section>
      {edit && <EditField field={edit === 'new' ? undefined : edit} all={fields.data?.items ?? []} close={() => setEdit(undefined)} />}
    </>
  );
}
