import { useQuery } from '@tanstack/react-query';
import { useTranslation } from 'react-i18next';
import { Link } from 'react-router';
import { api, good } from '../api/client';
import { day } from '../frame/dates';
import { paid, State } from './OrdersPage';

/** The orders of one member; nothing where they have none. */
export function MemberOrders({ member }: { member: string }) {
  const { t } = useTranslation();
  const orders = useQuery({
    queryKey: ['orders', 'of', member],
    queryFn: () => good(api.GET('/api/v1/orders', { params: { query: { member, limit: 20 } } })),
  });
  const all = orders.data?.items ?? [];
  return all.length === 0 ? null : (
    <section className="sheet part">
      <h2>{t('member.orders')}</h2>
      <ul className="bought">
        {all.map((order) => (
          <li key={order.id}>
            <Link to={`/orders/${order.id}`}>{order.order}</Link> <code>{order.codes}</code> {paid(order)} · {day(order.at)}{' '}
            <State order={order} />
          </li>
        ))}
      </ul>
    </section>
  );
}
