import { useTranslation } from 'react-i18next';
import { asking, askOf, asksOf, type Condition, type FieldDraft, fieldOf, isRow, replaced, valuesOf, without } from './draft';

type Change = (condition: Condition | undefined) => void;

const deepest = 4;

/** Edits when something is shown or given: rows of which all or any have to hold, and groups of rows inside them. */
export function ConditionEditor({
  id,
  condition,
  fields,
  set,
}: {
  id: string;
  condition: Condition | null | undefined;
  fields: FieldDraft[];
  set: Change;
}) {
  const { t } = useTranslation();
  if (fields.length === 0) {
    return <p className="hint">{t('forms.condition.none')}</p>;
  }

  if (!condition) {
    return (
      <button type="button" className="btn" onClick={() => set({ all: [first(fields)] })}>
        {t('forms.condition.add')}
      </button>
    );
  }

  return <Group id={id} condition={grouped(condition)} fields={fields} deep={deepest} set={set} />;
}

const first = (fields: FieldDraft[]): Condition => {
  const field = fields[0];
  return asking(field?.key ?? '', asksOf(field)[0] ?? 'given', startOf(field));
};

const startOf = (field: FieldDraft | undefined): string[] =>
  field?.kind === 'yes-no' || field?.kind === 'consent' ? ['yes'] : field?.options?.[0]?.key ? [field.options[0].key] : [];

/** Anything as a group, so that there is always somewhere to add a row. */
const grouped = (condition: Condition): Condition => (condition.all || condition.any ? condition : { all: [condition] });

function Group({
  id,
  condition,
  fields,
  deep,
  set,
}: {
  id: string;
  condition: Condition;
  fields: FieldDraft[];
  deep: number;
  set: Change;
}) {
  const { t } = useTranslation();
  const parts = condition.all ?? condition.any ?? [];
  const change = (next: Condition[]) => set(next.length === 0 ? undefined : condition.any ? { any: next } : { all: next });
  return (
    <fieldset className="condition">
      <legend className="sr">{t('forms.condition.group')}</legend>
      {parts.length > 1 && (
        <select
          className="field"
          aria-label={t('forms.condition.how')}
          value={condition.any ? 'any' : 'all'}
          onChange={(e) => set(e.currentTarget.value === 'any' ? { any: parts } : { all: parts })}
        >
          <option value="all">{t('forms.condition.all')}</option>
          <option value="any">{t('forms.condition.any')}</option>
        </select>
      )}
      {parts.map((part, at) => {
        const one = `${id}-${at}`;
        const next: Change = (changed) => change(changed ? replaced(parts, at, changed) : without(parts, at));
        return isRow(part) ? (
          <Row key={one} id={one} condition={part} fields={fields} set={next} />
        ) : (
          <Group key={one} id={one} condition={grouped(part)} fields={fields} deep={deep - 1} set={next} />
        );
      })}
      <span className="adds">
        <button type="button" className="link" onClick={() => change([...parts, first(fields)])}>
          {t('forms.condition.row')}
        </button>
        {deep > 1 && (
          <button
            type="button"
            className="link"
            onClick={() => change([...parts, condition.any ? { all: [first(fields)] } : { any: [first(fields)] }])}
          >
            {t('forms.condition.inside')}
          </button>
        )}
      </span>
    </fieldset>
  );
}

function Row({ id, condition, fields, set }: { id: string; condition: Condition; fields: FieldDraft[]; set: Change }) {
  const { t } = useTranslation();
  const field = fields.find((one) => one.key === fieldOf(condition));
  const ask = askOf(condition);
  const values = valuesOf(condition);
  return (
    <div className="ask">
      <select
        className="field"
        aria-label={t('forms.condition.field')}
        value={field?.key ?? ''}
        onChange={(e) => {
          const next = fields.find((one) => one.key === e.currentTarget.value);
          set(asking(next?.key ?? '', asksOf(next)[0] ?? 'given', startOf(next)));
        }}
      >
        {!field && <option value="">{fieldOf(condition)}</option>}
        {fields.map((one) => (
          <option key={one.key} value={one.key ?? ''}>
            {one.label}
          </option>
        ))}
      </select>
      <select
        className="field"
        aria-label={t('forms.condition.ask')}
        value={ask}
        onChange={(e) => set(asking(fieldOf(condition), e.currentTarget.value, values))}
      >
        {asksOf(field).map((one) => (
          <option key={one} value={one}>
            {t(`forms.condition.asks.${one}`)}
          </option>
        ))}
      </select>
      {!['given', 'missing'].includes(ask) && (
        <Values id={id} field={field} values={values} set={(next) => set(asking(fieldOf(condition), ask, next))} />
      )}
      <button
        type="button"
        className="btn"
        aria-label={t('forms.condition.drop', { field: field?.label ?? '' })}
        onClick={() => set(undefined)}
      >
        ✕
      </button>
    </div>
  );
}

function Values({
  id,
  field,
  values,
  set,
}: {
  id: string;
  field: FieldDraft | undefined;
  values: string[];
  set: (values: string[]) => void;
}) {
  const { t } = useTranslation();
  const label = t('forms.condition.value');
  if (field?.kind === 'yes-no' || field?.kind === 'consent') {
    return (
      <select className="field" aria-label={label} value={values[0] ?? 'yes'} onChange={(e) => set([e.currentTarget.value])}>
        <option value="yes">{t('forms.yes')}</option>
        {field.kind === 'yes-no' && <option value="no">{t('forms.no')}</option>}
      </select>
    );
  }

  if (field?.options?.length) {
    return (
      <fieldset className="several bare" aria-label={label}>
        {field.options.map((option) => (
          <label key={option.key} className="opt">
            <input
              type="checkbox"
              checked={values.includes(option.key ?? '')}
              onChange={(e) =>
                set(e.currentTarget.checked ? [...values, option.key ?? ''] : values.filter((value) => value !== option.key))
              }
            />
            <span>{option.label}</span>
          </label>
        ))}
      </fieldset>
    );
  }

  return (
    <input
      id={`${id}-value`}
      className="field"
      aria-label={label}
      placeholder={field?.kind === 'country' ? 'PT' : field?.kind === 'date' ? '2027-03-14' : ''}
      type={field?.kind === 'date' ? 'date' : 'text'}
      value={values.join(', ')}
      onChange={(e) =>
        set(
          field?.kind === 'number' || field?.kind === 'date'
            ? [e.currentTarget.value]
            : e.currentTarget.value.split(',').map((v) => v.trim()),
        )
      }
    />
  );
}
