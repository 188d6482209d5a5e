import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useTranslation } from 'react-i18next';
import { api, good, type Schemas } from '../api/client';
import { moment } from '../frame/dates';
import { Part } from './MemberPage';

/** What a member said to the site's terms, and what they show in the directory. */
export function Said({ member }: { member: Schemas['MemberView'] }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const at = { params: { path: { member: member.id } } };
  const said = useQuery({ queryKey: ['consents', member.id], queryFn: () => good(api.GET('/api/v1/members/{member}/consents', at)) });
  const listing = useQuery({ queryKey: ['listing', member.id], queryFn: () => good(api.GET('/api/v1/members/{member}/listing', at)) });
  const unlist = useMutation({
    mutationFn: () => good(api.DELETE('/api/v1/members/{member}/listing', at)),
    onSettled: () => queries.invalidateQueries(),
  });
  if (!listing.data?.listed && !said.data?.items.length) {
    return null;
  }

  return (
    <Part
      title={t('member.said')}
      tools={
        listing.data?.listed && (
          <button type="button" className="btn" disabled={unlist.isPending} onClick={() => unlist.mutate()}>
            {t('member.unlist')}
          </button>
        )
      }
    >
      {unlist.isError && <p className="bad">{unlist.error.message}</p>}
      {listing.data?.listed && <p className="hint">{t('member.listed', { fields: ['name', ...listing.data.fields].join(', ') })}</p>}
      <ul className="rows">
        {said.data?.items.map((one) => (
          <li key={one.terms + one.number + one.at}>
            <div>
              <b>{t(one.agreed ? 'member.agreed' : 'member.refused', { terms: one.terms, number: one.number })}</b>
              <p className="hint">
                {moment(one.at)} · {one.where} · {one.language}
              </p>
            </div>
          </li>
        ))}
      </ul>
    </Part>
  );
}
