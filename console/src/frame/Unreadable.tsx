import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useTranslation } from 'react-i18next';
import { Link } from 'react-router';
import { api, good, type Schemas } from '../api/client';

type Fault = Schemas['FaultView'];

/** What is stored and cannot be read: said on every page, with what is closed for it and how to mend it. */
export function Unreadable({ faults }: { faults: Fault[] }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const drop = useMutation({
    mutationFn: (fault: Fault) => good(api.POST('/api/v1/mend', { body: { kind: fault.kind, key: fault.key } })),
    onSuccess: () => queries.invalidateQueries(),
  });
  if (faults.length === 0) {
    return null;
  }

  return (
    <section className="unreadable" role="alert">
      <h2>{t('unreadable.title', { count: faults.length })}</h2>
      <ul>
        {faults.map((fault) => (
          <li key={`${fault.kind}:${fault.key}`}>
            <p>
              <b>
                {fault.kind} <code>{fault.key}</code>
              </b>{' '}
              {fault.reason}
            </p>
            <p>{fault.closed.length > 0 ? t('unreadable.closed', { what: fault.closed.join(', ') }) : t('unreadable.nothing')}</p>
            <p className="hint">{fault.mend}</p>
            {fault.kind === 'gate' && (
              <Link className="btn" to={`/gates/${fault.key}`}>
                {t('unreadable.open')}
              </Link>
            )}{' '}
            <button type="button" className="btn" disabled={drop.isPending} onClick={() => drop.mutate(fault)}>
              {t('unreadable.drop')}
            </button>
          </li>
        ))}
      </ul>
      {drop.isError && <p className="bad">{drop.error.message}</p>}
    </section>
  );
}
