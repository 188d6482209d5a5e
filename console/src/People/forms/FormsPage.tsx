import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { Link, useNavigate } from 'react-router';
import { api, good, type Schemas } from '../../api/client';
import { May } from '../../frame/May';
import { moved, Order, useDrag } from '../../frame/Order';
import { Empty, Failed, Loading, PageHead } from '../../frame/Page';
import { useMay } from '../me';
import { EditField } from './EditField';

/** The forms by which people join, and the fields that they are made of. */
export function FormsPage() {
  const { t } = useTranslation();
  const go = useNavigate();
  const [edit, setEdit] = useState<Schemas['FieldView'] | 'new'>();
  const forms = useQuery({ queryKey: ['forms'], queryFn: () => good(api.GET('/api/v1/forms')) });
  const fields = useQuery({ queryKey: ['fields'], queryFn: () => good(api.GET('/api/v1/fields')) });
  const settings = useQuery({ queryKey: ['settings'], queryFn: () => good(api.GET('/api/v1/settings')) });
  const may = useMay('write');
  const queries = useQueryClient();
  const settled = { onSettled: () => queries.invalidateQueries() };
  const orderForms = useMutation({ mutationFn: (keys: string[]) => good(api.POST('/api/v1/forms/order', { body: { keys } })), ...settled });
  const orderFields = useMutation({
    mutationFn: (keys: string[]) => good(api.POST('/api/v1/fields/order', { body: { keys } })),
    ...settled,
  });
  const whole = forms.data?.items.filter((one) => !one.broken).map((one) => one.form.key ?? '') ?? [];
  const moveForm = (from: number, to: number) => orderForms.mutate(moved(whole, from, to));
  const moveField = (from: number, to: number) =>
    orderFields.mutate(
      moved(
        (fields.data?.items ?? []).map((one) => one.field.key ?? ''),
        from,
        to,
      ),
    );
  const dragForm = useDrag(moveForm, may);
  const dragField = useDrag(moveField, may);
  const refused = orderForms.error ?? orderFields.error;
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
      {refused && (
        <p className="note" role="alert">
          {refused.message}
        </p>
      )}
      {forms.isPending && <Loading />}
      {forms.isError && <Failed fault={forms.error} again={() => void forms.refetch()} />}
      {forms.data?.items.length === 0 && <Empty title={t('forms.empty')} lead={t('forms.emptyLead')} />}
      {forms.data && forms.data.items.length > 0 && (
        <ol className="letters">
          {forms.data.items.map(({ form, address, gives, broken }, at) => (
            <li key={form.key} {...(broken ? {} : dragForm(at))} className={`sheet ${dragForm(at).className ?? ''}`}>
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
              <span className="form-tools">
                <a className="address" href={address} target="_blank" rel="noreferrer">
                  {new URL(address).pathname}
                </a>
                {may && !broken && whole.length > 1 && (
                  <Order name={form.title ?? ''} at={at} count={whole.length} move={(to) => moveForm(at, to)} />
                )}
              </span>
            </li>
          ))}
        </ol>
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
                  {may && <th>{t('forms.order')}</th>}
                </tr>
              </thead>
              <tbody>
                {fields.data.items.map((one, at, all) => (
                  <tr key={one.field.key} {...dragField(at)}>
                    <td>
                      <button type="button" className="link" onClick={() => setEdit(one)}>
                        {one.field.label}
                      </button>{' '}
                      <code>{one.field.key}</code>
                    </td>
                    <td>{t(`forms.kinds.${one.field.kind ?? 'text'}`)}</td>
                    <td>{t(`forms.profiles.${one.field.profile ?? 'hidden'}`)}</td>
                    <td>{one.forms.join(', ') || '–'}</td>
                    {may && (
                      <td>
                        <Order name={one.field.label ?? ''} at={at} count={all.length} move={(to) => moveField(at, to)} />
                      </td>
                    )}
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
