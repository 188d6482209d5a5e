import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { Link, useSearchParams } from 'react-router';
import { api, good, type Schemas } from '../api/client';
import { moment } from '../frame/dates';
import { Field } from '../frame/Field';
import { May } from '../frame/May';
import { Empty, Failed, Loading, PageHead } from '../frame/Page';
import { AnswerList } from './forms/AnswerList';

const most = 100;
const shelves = { waiting: 'waiting,asked', held: 'held', unproved: 'unproved', decided: 'approved,declined' } as const;
type Shelf = keyof typeof shelves;
type Decision = 'approve' | 'decline' | 'sham';

/** Those who ask to join, the oldest first: let in, asked back or declined, one or many, with words of one's own. */
export function RequestsPage() {
  const { t } = useTranslation();
  const [query, setQuery] = useSearchParams();
  const shelf = (Object.keys(shelves).find((one) => one === query.get('show')) ?? 'waiting') as Shelf;
  const [chosen, setChosen] = useState<string[]>([]);
  const counts = useQuery({ queryKey: ['requests', 'counts'], queryFn: () => good(api.GET('/api/v1/requests/counts')) });
  const asking = useQuery({
    queryKey: ['requests', shelf],
    queryFn: () => good(api.GET('/api/v1/requests', { params: { query: { state: shelves[shelf], limit: most } } })),
  });
  const settings = useQuery({ queryKey: ['settings'], queryFn: () => good(api.GET('/api/v1/settings')) });
  const forms = useQuery({ queryKey: ['forms'], queryFn: () => good(api.GET('/api/v1/forms')) });
  const closed = settings.data?.joining.way === 'closed' && !forms.data?.items.some((one) => one.form.way && one.form.way !== 'closed');
  const many = { waiting: (counts.data?.waiting ?? 0) + (counts.data?.asked ?? 0), held: counts.data?.held ?? 0, unproved: 0, decided: 0 };
  const all = asking.data?.items ?? [];
  return (
    <>
      <PageHead kicker={<Link to="/members">{t('members.title')}</Link>} title={t('requests.title')} lead={t('requests.lead')} />
      <nav className="shelves" aria-label={t('requests.shelves')}>
        {(Object.keys(shelves) as Shelf[]).map((one) => (
          <button
            key={one}
            type="button"
            aria-pressed={one === shelf}
            onClick={() => {
              setChosen([]);
              setQuery(one === 'waiting' ? {} : { show: one });
            }}
          >
            {t(`requests.shelf.${one}`)} {many[one] > 0 && <em>{many[one]}</em>}
          </button>
        ))}
      </nav>
      {shelf === 'held' && <p className="hint">{t('requests.heldLead')}</p>}
      {asking.isPending && <Loading />}
      {asking.isError && <Failed fault={asking.error} again={() => void asking.refetch()} />}
      {asking.isSuccess && all.length === 0 && (
        <Empty title={t(`requests.none.${shelf}`)} lead={t(closed ? 'requests.closed' : `requests.noneLead.${shelf}`)}>
          {closed && (
            <Link className="btn prime" to="/settings">
              {t('requests.open')}
            </Link>
          )}
        </Empty>
      )}
      {shelf !== 'decided' && all.length > 1 && <Many all={all} chosen={chosen} choose={setChosen} shelf={shelf} />}
      {all.length > 0 && (
        <ul className="letters requests">
          {all.map((one) => (
            <Request
              key={one.id}
              request={one}
              isOver={shelf === 'decided'}
              chosen={chosen.includes(one.member)}
              choose={(yes) => setChosen(yes ? [...chosen, one.member] : chosen.filter((other) => other !== one.member))}
              chooseNearby={(ids) =>
                setChosen([...new Set([...chosen, one.member, ...ids.filter((id) => all.some((r) => r.member === id))])])
              }
            />
          ))}
        </ul>
      )}
      {asking.data?.next && <p className="hint">{t('requests.more', { count: most })}</p>}
    </>
  );
}

/** Decides many at once. */
function Many({
  all,
  chosen,
  choose,
  shelf,
}: {
  all: Schemas['RequestView'][];
  chosen: string[];
  choose: (members: string[]) => void;
  shelf: Shelf;
}) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const decide = useMutation({
    mutationFn: (decision: Decision) => good(api.POST('/api/v1/requests/decide', { body: { members: chosen, decision } })),
    onSettled: () => {
      choose([]);
      return queries.invalidateQueries();
    },
  });
  return (
    <May scope="people">
      <div className="many">
        <label className="opt">
          <input
            type="checkbox"
            checked={chosen.length === all.length}
            onChange={(e) => choose(e.currentTarget.checked ? all.map((one) => one.member) : [])}
          />
          <span>{chosen.length > 0 ? t('requests.chosen', { count: chosen.length }) : t('requests.all')}</span>
        </label>
        {chosen.length > 0 && (
          <>
            <button type="button" className="btn" disabled={decide.isPending} onClick={() => decide.mutate('approve')}>
              {t('requests.yes')}
            </button>
            <button type="button" className="btn" disabled={decide.isPending} onClick={() => decide.mutate('decline')}>
              {t('requests.no')}
            </button>
            {(shelf === 'held' || shelf === 'unproved') && (
              <button type="button" className="btn danger" disabled={decide.isPending} onClick={() => decide.mutate('sham')}>
                {t('requests.sham')}
              </button>
            )}
          </>
        )}
        {decide.data && (
          <p className="hint" role="status">
            {t('requests.decided', { count: decide.data.done })}
            {decide.data.failed.map((one) => ` ${one.member}: ${one.why}`)}
          </p>
        )}
        {decide.isError && (
          <p className="bad" role="alert">
            {decide.error.message}
          </p>
        )}
      </div>
    </May>
  );
}

function Request({
  request,
  isOver,
  chosen,
  choose,
  chooseNearby,
}: {
  request: Schemas['RequestView'];
  isOver: boolean;
  chosen: boolean;
  choose: (yes: boolean) => void;
  chooseNearby: (members: string[]) => void;
}) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const [words, setWords] = useState('');
  const path = { member: request.member };
  const decide = useMutation({
    mutationFn: (act: 'approve' | 'decline' | 'ask-back' | 'let-go') => {
      const asked = { params: { path }, body: { words: words.trim() || null } };
      switch (act) {
        case 'approve':
          return good(api.POST('/api/v1/members/{member}/approve', asked));
        case 'decline':
          return good(api.POST('/api/v1/members/{member}/decline', asked));
        case 'ask-back':
          return good(api.POST('/api/v1/members/{member}/ask-back', asked));
        default:
          return good(api.POST('/api/v1/members/{member}/let-go', { params: { path } }));
      }
    },
    onSettled: () => queries.invalidateQueries(),
  });
  const nearby = useMutation({
    mutationFn: () => good(api.GET('/api/v1/requests/{member}/nearby', { params: { path } })),
    onSuccess: (page) => chooseNearby(page.items.map((one) => one.member)),
  });
  const isHeld = request.state === 'held';
  return (
    <li className="sheet">
      <div>
        <b className="who">
          {!isOver && (
            <input
              type="checkbox"
              aria-label={t('requests.choose', { name: request.name })}
              checked={chosen}
              onChange={(e) => choose(e.currentTarget.checked)}
            />
          )}
          <Link to={`/members/${request.member}`}>{request.name}</Link>
          {request.state === 'asked' && <span className="state">{t('requests.asked')}</span>}
          {isOver && <span className={request.state === 'declined' ? 'state off' : 'state'}>{t(`requests.was.${request.state}`)}</span>}
        </b>
        <p>
          {request.email} · {request.title} · {t('requests.since', { at: moment(request.at) })}
        </p>
        {request.answers.length > 0 && <AnswerList member={request.member} answers={request.answers} />}
        {request.grants.length > 0 && <p className="hint">{t('requests.gives', { what: request.grants.join(', ') })}</p>}
        {request.signs.length > 0 && (
          <ul className="signs">
            {request.signs.map((sign) => (
              <li key={sign.kind}>{sign.words}</li>
            ))}
          </ul>
        )}
        {request.words && <blockquote>{request.words}</blockquote>}
        {request.earlier && request.earlier.length > 0 && (
          <>
            <p className="hint">{t('requests.earlier')}</p>
            <ul className="signs">
              {request.earlier.map((one) => (
                <li key={one.email + one.at}>
                  {t('requests.earlierOne', { email: one.email, at: moment(one.at), state: t(`requests.is.${one.state}`, one.state) })} (
                  {one.same === 'member' || one.same === 'name' ? t(`requests.sameAs.${one.same}`) : one.same})
                  {one.words && <q>{one.words}</q>}
                </li>
              ))}
            </ul>
          </>
        )}
        {!isOver && request.nearby > 0 && (
          <button type="button" className="link" onClick={() => nearby.mutate()}>
            {t('requests.nearby', { count: request.nearby })}
          </button>
        )}
        {!isOver && (
          <May scope="people">
            <Field
              as="textarea"
              id={`words-${request.id}`}
              label={t('requests.words')}
              rows={2}
              value={words}
              onChange={(e) => setWords(e.currentTarget.value)}
            />
          </May>
        )}
        {decide.isError && (
          <p className="bad" role="alert">
            {decide.error.message}
          </p>
        )}
      </div>
      {!isOver && (
        <May scope="people">
          <div className="letter-acts">
            <button
              type="button"
              className={isHeld ? 'btn' : 'btn prime'}
              disabled={decide.isPending}
              onClick={() => decide.mutate('approve')}
            >
              {t('requests.yes')}
            </button>
            {isHeld ? (
              <button type="button" className="btn" disabled={decide.isPending} onClick={() => decide.mutate('let-go')}>
                {t('requests.letGo')}
              </button>
            ) : (
              request.state !== 'unproved' && (
                <button type="button" className="btn" disabled={decide.isPending} onClick={() => decide.mutate('ask-back')}>
                  {t('requests.ask')}
                </button>
              )
            )}
            <button type="button" className="btn" disabled={decide.isPending} onClick={() => decide.mutate('decline')}>
              {t('requests.no')}
            </button>
          </div>
        </May>
      )}
    </li>
  );
}
