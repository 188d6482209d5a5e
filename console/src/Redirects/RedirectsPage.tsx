import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { api, good, type Schemas } from '../api/client';
import { May } from '../frame/May';
import { moved, Order, useDrag } from '../frame/Order';
import { Empty, Failed, Loading, PageHead } from '../frame/Page';
import { useMay } from '../People/me';
import { EditRedirect } from './EditRedirect';
import { WhoLands } from './WhoLands';

export type Redirect = Schemas['RedirectView'];

/** Where people land: the redirects in their order, and beside them who lands where. */
export function RedirectsPage() {
  const { t } = useTranslation();
  const [edit, setEdit] = useState<Redirect | 'new'>();
  const redirects = useQuery({ queryKey: ['redirects'], queryFn: () => good(api.GET('/api/v1/redirects')) });
  const all = redirects.data?.items ?? [];
  const add = (
    <May scope="write">
      <button type="button" className="btn prime" onClick={() => setEdit('new')}>
        {t('redirects.add')}
      </button>
    </May>
  );
  return (
    <>
      <PageHead title={t('redirects.title')} lead={t('redirects.lead')} tools={add} />
      <div className="split">
        <div>
          {redirects.isPending && <Loading />}
          {redirects.isError && <Failed fault={redirects.error} again={() => void redirects.refetch()} />}
          {redirects.isSuccess && all.length === 0 && <Empty title={t('redirects.empty')} lead={t('redirects.emptyLead')} />}
          {all.length > 0 && <RedirectList all={all} edit={setEdit} />}
          <p className="hint">{t('redirects.order')}</p>
        </div>
        <WhoLands />
      </div>
      {edit && <EditRedirect redirect={edit === 'new' ? undefined : edit} taken={all} close={() => setEdit(undefined)} />}
    </>
  );
}

function RedirectList({ all, edit }: { all: Redirect[]; edit: (redirect: Redirect) => void }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const may = useMay('write');
  const order = useMutation({
    mutationFn: (keys: string[]) => good(api.POST('/api/v1/redirects/order', { body: { keys } })),
    // The new order stands at once, while it is stored.
    onMutate: (keys) => queries.setQueryData(['redirects'], { items: keys.flatMap((key) => all.filter((r) => r.key === key)), next: null }),
    onSettled: () => queries.invalidateQueries(),
  });
  const move = (from: number, to: number) =>
    order.mutate(
      moved(
        all.map((r) => r.key),
        from,
        to,
      ),
    );
  const drag = useDrag(move, may);
  return (
    <>
      {order.isError && (
        <p className="note" role="alert">
          {order.error.message}
        </p>
      )}
      <ol className="redirects">
        {all.map((redirect, at) => (
          <li key={redirect.key} {...drag(at)}>
            <button type="button" className="says" onClick={() => edit(redirect)}>
              {t(`redirects.when.${redirect.on}`)}, <u>{redirect.audience}</u>{' '}
              {t(redirect.insists ? 'redirects.always' : 'redirects.lands')} <b>{redirect.to}</b>
              <code>{redirect.key}</code>
            </button>
            {may && <Order name={redirect.key} at={at} count={all.length} move={(to) => move(at, to)} />}
          </li>
        ))}
      </ol>
    </>
  );
}
