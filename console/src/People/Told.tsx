import { useTranslation } from 'react-i18next';
import type { Schemas } from '../api/client';
import { Dialog } from '../frame/Dialog';

/** Tells a password that was made up, once. */
export function Told({ made, close }: { made: Schemas['GeneratedPasswordView']; close: () => void }) {
  const { t } = useTranslation();
  return (
    <Dialog title={t('member.passwordMade')} close={close}>
      <p>{t('member.passwordMadeLead', { name: made.member.name, bits: made.bits })}</p>
      <p className="told" aria-live="polite">
        <code>{made.password}</code>
      </p>
      <footer className="bar">
        <button type="button" className="btn" onClick={() => void navigator.clipboard.writeText(made.password)}>
          {t('member.copy')}
        </button>
        <button type="button" className="btn prime" onClick={close}>
          {t('member.noted')}
        </button>
      </footer>
    </Dialog>
  );
}
