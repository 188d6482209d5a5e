import { useState } from 'react';
import { useTranslation } from 'react-i18next';

/** A password field whose words can be shown. */
export function PasswordInput({
  id,
  label,
  autoComplete,
  bad,
}: {
  id: string;
  label: string;
  autoComplete: string;
  bad?: string | undefined;
}) {
  const { t } = useTranslation();
  const [shown, setShown] = useState(false);
  return (
    <>
      <label className="name" htmlFor={id}>
        {label}
      </label>
      <span className="pw">
        <input
          id={id}
          name={id}
          className="field"
          type={shown ? 'text' : 'password'}
          autoComplete={autoComplete}
          required
          aria-invalid={bad !== undefined}
          aria-describedby={bad ? `${id}-bad` : undefined}
        />
        <button type="button" aria-pressed={shown} onClick={() => setShown(!shown)}>
          {t(shown ? 'signIn.hide' : 'signIn.show')}
        </button>
      </span>
      {bad && (
        <p className="bad" id={`${id}-bad`}>
          {bad}
        </p>
      )}
    </>
  );
}
