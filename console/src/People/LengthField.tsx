import type { TFunction } from 'i18next';
import { useTranslation } from 'react-i18next';
import { Field } from '../frame/Field';

const units = ['D', 'W', 'M', 'Y'] as const;

/** A length in words, such as 30 days; as it is written where it is of several units. */
export function spoken(length: string, t: TFunction): string {
  const [, count, unit] = /^P(\d+)([DWMY])$/.exec(length) ?? [];
  return count && unit ? t(`roles.for.${unit}`, { count: Number(count) }) : length;
}

/** How long a plan lasts: a number and a unit of the calendar; empty for as long as nobody ends it. */
export function LengthField({
  value,
  set,
  bad,
  brief,
  id = 'length',
  label,
  hint,
}: {
  value: string;
  set: (length: string) => void;
  bad: string | undefined;
  /** Without the line beneath, where something else says it. */
  brief?: boolean;
  id?: string;
  /** What it is called, and what it says beneath; the length of a plan unless said. */
  label?: string;
  hint?: string;
}) {
  const { t } = useTranslation();
  const one = /^P(\d+)([DWMY])$/.exec(value);
  if (value && !one) {
    // Years and months together, say: as it is written.
    return <Field id={id} label={label ?? t('roles.length')} bad={bad} value={value} onChange={(e) => set(e.currentTarget.value.trim())} />;
  }

  const [, count = '', unit = 'D'] = one ?? [];
  return (
    <div className="pair">
      <Field
        id={id}
        type="number"
        min={1}
        label={label ?? t('roles.length')}
        hint={brief ? undefined : (hint ?? t('roles.lengthHint'))}
        bad={bad}
        value={count}
        onChange={(e) => set(e.currentTarget.value ? `P${e.currentTarget.value}${unit}` : '')}
      />
      <Field
        as="select"
        id={`${id}-unit`}
        label={t('roles.unit')}
        value={unit}
        onChange={(e) => set(count ? `P${count}${e.currentTarget.value}` : '')}
      >
        {units.map((name) => (
          <option key={name} value={name}>
            {t(`roles.units.${name}`)}
          </option>
        ))}
      </Field>
    </div>
  );
}
