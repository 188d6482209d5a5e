import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { Field } from '../frame/Field';

/** A password field whose words can be shown. */
export function PasswordInput(props: { id: string; label: string; autoComplete: string; bad?: string | undefined }) {
  const { t } = useTranslation();
  const [shown, setShown] = useState(false);
  return (
    <Field
      {...props}
      name={props.id}
      type={shown ? 'text' : 'password'}
      required
      end={
        <button type="button" aria-pressed={shown} onClick={() => setShown(!shown)}>
          {t(shown ? 'signIn.hide' : 'signIn.show')}
        </button>
      }
    />
  );
}
