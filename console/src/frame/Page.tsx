import type { ReactNode } from 'react';
import { useTranslation } from 'react-i18next';

/** The head of a page: what it is, what it is for, what can be done. */
export function PageHead({ title, lead, tools, kicker }: { title: ReactNode; lead?: ReactNode; tools?: ReactNode; kicker?: ReactNode }) {
  return (
    <header className="top">
      <div>
        {kicker && <p className="kicker">{kicker}</p>}
        <h1>{title}</h1>
        {lead && <p>{lead}</p>}
      </div>
      {tools && <div className="tools">{tools}</div>}
    </header>
  );
}

/** Keeps the layout still while something loads. */
export function Loading({ lines = 6 }: { lines?: number }) {
  const { t } = useTranslation();
  return (
    <div role="status" aria-label={t('state.loading')}>
      {Array.from({ length: lines }, (_, line) => `ghost-${line}`).map((key) => (
        <div className="ghost" key={key} />
      ))}
    </div>
  );
}

/** Says that something could not be loaded, why, and offers another try. */
export function Failed({ fault, again }: { fault: Error; again: () => void }) {
  const { t } = useTranslation();
  return (
    <div className="empty" role="alert">
      <h2>{t('state.failed')}</h2>
      <p>{fault.message}</p>
      <button type="button" className="btn" onClick={again}>
        {t('state.again')}
      </button>
    </div>
  );
}

/** Says what belongs here and offers the first step. */
export function Empty({ title, lead, children }: { title: string; lead: string; children?: ReactNode }) {
  return (
    <div className="empty">
      <h2>{title}</h2>
      <p>{lead}</p>
      {children}
    </div>
  );
}
