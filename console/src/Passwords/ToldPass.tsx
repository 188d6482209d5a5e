import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import type { Schemas } from '../api/client';
import { Dialog } from '../frame/Dialog';

/** Tells the password of a pass, once, with a text that is ready to send. */
export function ToldPass({ pass, close }: { pass: Schemas['PassView']; close: () => void }) {
  const { t } = useTranslation();
  const [copied, setCopied] = useState(false);
  return (
    <Dialog title={t('passes.told', { holder: pass.holder })} close={close}>
      <p>{t('passes.toldLead', { bits: pass.bits })}</p>
      <div className="told" aria-live="polite">
        <p>
          {t('passes.name')}: <code>{pass.name}</code>
        </p>
        <p>
          {t('passes.password')}: <code>{pass.password}</code>
        </p>
      </div>
      <div className="bar">
        <button
          type="button"
          className="btn"
          onClick={async () => {
            await navigator.clipboard.writeText(pass.text ?? '');
            setCopied(true);
          }}
        >
          {t(copied ? 'shared.copied' : 'shared.copy')}
        </button>
        <button type="button" className="btn prime" onClick={close}>
          {t('member.noted')}
        </button>
      </div>
    </Dialog>
  );
}
