import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useTranslation } from 'react-i18next';
import { api, good } from '../api/client';
import { day } from '../frame/dates';
import { May } from '../frame/May';

/** Addresses that no letter reaches; nothing where every one is reached. */
export function Unreachable() {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const all = useQuery({ queryKey: ['unreachable'], queryFn: () => good(api.GET('/api/v1/letters/unreachable')) });
  const free = useMutation({
    mutationFn: (address: string) => good(api.DELETE('/api/v1/letters/unreachable/{address}', { params: { path: { address } } })),
    onSettled: () => queries.invalidateQueries(),
  });
  return all.data && all.data.items.length > 0 ? (
    <section className="sheet part" aria-label={t('letters.unreachable')}>
      <header>
        <h2>{t('letters.unreachable')}</h2>
      </header>
      <p className="hint">{t('letters.unreachableLead')}</p>
      {free.isError && <p className="bad">{free.error.message}</p>}
      <ul className="rows">
        {all.data.items.map((one) => (
          <li key={one.address}>
            <div>
              <b>{one.address}</b>
              <p className="hint">
                {day(one.at)} · {one.status} {one.said}
              </p>
            </div>
            <May scope="people">
              <button type="button" className="btn" disabled={free.isPending} onClick={() => free.mutate(one.address)}>
                {t('letters.reachable')}
              </button>
            </May>
          </li>
        ))}
      </ul>
    </section>
  ) : null;
}
