import { useTranslation } from 'react-i18next';
import type { Schemas } from '../api/client';
import { moment } from './dates';

/** The guarded site does not answer, or its certificate is not to be trusted: said on every page, with the reason. */
export function OutOfReach({ fault }: { fault: Schemas['OriginFaultView'] | null | undefined }) {
  const { t } = useTranslation();
  if (!fault) {
    return null;
  }

  return (
    <section className="unreadable" role="alert">
      <h2>{t('outOfReach.title')}</h2>
      <p>{fault.reason}</p>
      <p className="hint">{t('outOfReach.met', { since: moment(fault.since) })}</p>
    </section>
  );
}
