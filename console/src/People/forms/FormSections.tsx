import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import type { Refused, Schemas } from '../../api/client';
import { Field } from '../../frame/Field';
import { moved, Order, useDrag } from '../../frame/Order';
import { ConditionEditor } from './ConditionEditor';
import { type Placed, replaced, type Section, without } from './draft';
import { EditField } from './EditField';

type View = Schemas['FieldView'];

/** The sections of a form with their fields: order by drag and by keyboard, needed or not, shown always or only if. */
export function FormSections({
  sections,
  fields,
  refused,
  set,
}: {
  sections: Section[];
  fields: View[];
  refused: Refused | undefined;
  /** The sections as they are now, and of each where it stood: what is said of them in other languages goes with them. */
  set: (sections: Section[], from: (number | undefined)[]) => void;
}) {
  const { t } = useTranslation();
  const places: (number | undefined)[] = sections.map((_, at) => at);
  const placed = new Set(sections.flatMap((section) => (section.fields ?? []).map((one) => one.field)));
  return (
    <>
      {sections.map((section, at) => (
        <SectionEditor
          key={at}
          id={`section-${at}`}
          section={section}
          fields={fields}
          free={fields.filter((one) => !placed.has(one.field.key ?? ''))}
          inForm={fields.filter((one) => placed.has(one.field.key ?? ''))}
          bad={refused?.faults.filter((one) => one.field.startsWith(`sections[${at}]`)).map((one) => one.message)}
          order={
            sections.length > 1 && (
              <Order
                name={section.title || t('forms.section', { number: at + 1 })}
                at={at}
                count={sections.length}
                move={(to) => set(moved(sections, at, to), moved(places, at, to))}
                drop={() => set(without(sections, at), without(places, at))}
              />
            )
          }
          set={(next) => set(replaced(sections, at, next), places)}
        />
      ))}
      <button type="button" className="link" onClick={() => set([...sections, { title: null, fields: [] }], [...places, undefined])}>
        {t('forms.sectionAdd')}
      </button>
    </>
  );
}

function SectionEditor({
  id,
  section,
  fields,
  free,
  inForm,
  bad,
  order,
  set,
}: {
  id: string;
  section: Section;
  fields: View[];
  free: View[];
  inForm: View[];
  bad: string[] | undefined;
  order: React.ReactNode;
  set: (section: Section) => void;
}) {
  const { t } = useTranslation();
  const [edit, setEdit] = useState<View | 'new'>();
  const all = section.fields ?? [];
  const put = (next: Placed[]) => set({ ...section, fields: next });
  const drag = useDrag((from, to) => put(moved(all, from, to)));
  return (
    <fieldset className="section">
      <div className="section-head">
        <Field
          id={`${id}-title`}
          label={t('forms.sectionTitle')}
          value={section.title ?? ''}
          onChange={(e) => set({ ...section, title: e.currentTarget.value || null })}
        />
        {order}
      </div>
      <Field
        id={`${id}-lead`}
        label={t('forms.sectionLead')}
        value={section.lead ?? ''}
        onChange={(e) => set({ ...section, lead: e.currentTarget.value || null })}
      />
      <details open={section.shownIf != null || undefined}>
        <summary>{t(section.shownIf ? 'forms.sectionIf' : 'forms.sectionAlways')}</summary>
        <ConditionEditor
          id={`${id}-if`}
          condition={section.shownIf}
          fields={inForm.map((one) => one.field).filter((one) => !all.some((placed) => placed.field === one.key))}
          set={(shownIf) => set({ ...section, shownIf: shownIf ?? null })}
        />
      </details>
      <ol className="placed">
        {all.map((one, at) => {
          const view = fields.find((field) => field.field.key === one.field);
          const label = view?.field.label ?? one.field ?? '';
          return (
            <li key={one.field} {...drag(at)}>
              <div className="placed-head">
                <span className="grip" aria-hidden="true">
                  ⋮⋮
                </span>
                <button type="button" className="link" onClick={() => setEdit(view)}>
                  {label}
                </button>
                <small>{t(`forms.kinds.${view?.field.kind ?? 'text'}`)}</small>
                <span className="placed-tools">
                  <label className="opt">
                    <input
                      type="checkbox"
                      checked={one.required}
                      onChange={(e) => put(replaced(all, at, { ...one, required: e.currentTarget.checked }))}
                    />
                    <span>{t('forms.required')}</span>
                  </label>
                  <Order
                    name={label}
                    at={at}
                    count={all.length}
                    move={(to) => put(moved(all, at, to))}
                    drop={() => put(without(all, at))}
                  />
                </span>
              </div>
              <details open={one.shownIf != null || undefined}>
                <summary>{t(one.shownIf ? 'forms.shownIf' : 'forms.shownAlways')}</summary>
                <ConditionEditor
                  id={`${id}-${one.field}`}
                  condition={one.shownIf}
                  fields={inForm.map((other) => other.field).filter((other) => other.key !== one.field)}
                  set={(shownIf) => put(replaced(all, at, { ...one, shownIf: shownIf ?? null }))}
                />
              </details>
            </li>
          );
        })}
      </ol>
      {bad?.map((message) => (
        <p key={message} className="bad">
          {message}
        </p>
      ))}
      <span className="adding">
        <select
          className="field"
          aria-label={t('forms.fieldPlace')}
          value=""
          onChange={(e) => {
            if (e.currentTarget.value === '+') {
              setEdit('new');
            } else if (e.currentTarget.value) {
              put([...all, { field: e.currentTarget.value, required: false }]);
            }
          }}
        >
          <option value="">{t('forms.fieldPlace')}</option>
          <option value="+">{t('forms.fieldNew')}</option>
          {free.map((one) => (
            <option key={one.field.key} value={one.field.key ?? ''}>
              {one.field.label}
            </option>
          ))}
        </select>
      </span>
      {edit && (
        <EditField
          field={edit === 'new' ? undefined : edit}
          all={fields}
          close={() => setEdit(undefined)}
          added={edit === 'new' ? (key) => put([...all, { field: key, required: false }]) : undefined}
        />
      )}
    </fieldset>
  );
}
