import type { ReactNode } from 'react';
import { useTranslation } from 'react-i18next';

/** The buttons at the end of a dialog's form: what it does, and leaving it. */
export function DialogBar({
  go,
  disabled,
  danger,
  close,
  first,
}: {
  /** What it does; null where whoever looks may not do it. */
  go: string | null;
  disabled: boolean;
  danger?: boolean;
  close: () => void;
  /** What stands before it, as removing does. */
  first?: ReactNode;
}) {
  const { t } = useTranslation();
  return (
    <div className="bar">
      {first}
      {go && (
        <button type="submit" className={danger ? 'btn danger' : 'btn prime'} disabled={disabled}>
          {go}
        </button>
      )}
      <button type="button" className="btn" onClick={close}>
        {t('members.form.cancel')}
      </button>
    </div>
  );
}
