import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { Link } from 'react-router';
import { api, good, type Schemas } from '../api/client';
import { moment } from '../frame/dates';
import { Field } from '../frame/Field';
import { May } from '../frame/May';
import { Empty, Failed, Loading, PageHead } from '../frame/Page';

const most = 200;

/** Those who ask to join, the oldest first; each is let in or declined, with words of one's own. */
export function RequestsPage() {
  const { t } = useTranslation();
  const asking = useQuery({
    queryKey: ['members', 'pending'],
    queryFn: () => good(api.GET('/api/v1/members', { params: { query: { status: 'pending', sort: 'joined', limit: most } } })),
  });
  const settings = useQuery({ queryKey: ['settings'], queryFn: () => good(api.GET('/api/v1/settings')) });
  const closed = settings.data?.joining.way === 'closed';
  return (
    <>
      <PageHead kicker={<Link to="/members">{t('members.title')}</Link>} title={t('requests.title')} lead={t('requests.lead')} />
      {asking.isPending && <Loading />}
      {asking.isError && <Failed fault={asking.error} again={() => void asking.refetch()} />}
      {asking.isSuccess && asking.data.items.length === 0 && (
        <Empty title={t('requests.empty')} lead={t(closed ? 'requests.closed' : 'requests.emptyLead')}>
          {closed && (
            <Link className="btn prime" to="/settings">
              {t('requests.open')}
            </Link>
          )}
        </Empty>
      )}
      {asking.isSuccess && asking.data.items.length > 0 && (
        <ul className="letters">
          {asking.data.items.map((member) => (
            <Request key={member.id} member={member} />
          ))}
        </ul>
      )}
      {asking.data?.next && <p className="hint">{t('requests.more', { count: most })}</p>}
    </>
  );
}

function Request({ member }: { member: Schemas['MemberView'] }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const [words, setWords] = useState('');
  const decide = useMutation({
    mutationFn: (yes: boolean) => {
      const asked = { params: { path: { member: member.id } }, body: { words: words.trim() || null } };
      return yes ? good(api.POST('/api/v1/members/{member}/approve', asked)) : good(api.POST('/api/v1/members/{member}/decline', asked));
    },
    onSettled: () => queries.invalidateQueries(),
  });
  return (
    <li className="sheet">
      <div>
        <b>
          <Link to={`/members/${member.id}`}>{member.name}</Link>
        </b>
        <p>
          {member.email} · {t('requests.since', { at: moment(member.createdAt) })}
        </p>
        <May scope="people">
          <Field
            as="textarea"
            id={`words-${member.id}`}
            label={t('requests.words')}
            rows={2}
            value={words}
            onChange={(e) => setWords(e.currentTarget.value)}
          />
        </May>
        {decide.isError && (
          <p className="bad" role="alert">
            {decide.error.message}
          </p>
        )}
      </div>
      <May scope="people">
        <div className="letter-acts">
          <button type="button" className="btn prime" disabled={decide.isPending} onClick={() => decide.mutate(true)}>
            {t('requests.yes')}
          </button>
          <button type="button" className="btn" disabled={decide.isPending} onClick={() => decide.mutate(false)}>
            {t('requests.no')}
          </button>
        </div>
      </May>
    </li>
  );
}
