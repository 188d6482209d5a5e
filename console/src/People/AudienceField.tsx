import { useTranslation } from 'react-i18next';
import { Field } from '../frame/Field';
import { Blank } from '../Gates/Blank';
import { AudiencePicker } from '../Gates/Pickers';

/** An audience: chosen from lists, or written. */
export function AudienceField({
  id,
  label,
  hint,
  bad,
  value,
  set,
}: {
  id: string;
  label: string;
  hint?: string;
  bad?: string | undefined;
  value: string;
  set: (audience: string) => void;
}) {
  const { t } = useTranslation();
  return (
    <div className="wide audience">
      <Field id={id} label={label} hint={hint} bad={bad} value={value} spellCheck={false} onChange={(e) => set(e.currentTarget.value)} />
      <Blank name={label} words={t('roles.choose')}>
        <AudiencePicker audience={value || 'nobody'} set={set} />
      </Blank>
    </div>
  );
}
