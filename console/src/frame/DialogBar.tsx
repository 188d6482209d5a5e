import { useTranslation } from 'react-i18next';

/** The buttons at the end of a dialog's form: what it does, and leaving it. */
export function DialogBar({ go, disabled, danger, close }: { go: string; disabled: boolean; danger?: boolean; close: () => void }) {
  const { t } = useTranslation();
  return (
    <div className="bar">
      <button type="submit" className={danger ? 'btn danger' : 'btn prime'} disabled={disabled}>
        {go}
      </button>
      <button type="button" className="btn" onClick={close}>
        {t('members.form.cancel')}
      </button>
    </div>
  );
}
