import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { Link } from 'react-router';
import { api, good, Refused, type Schemas } from '../api/client';
import { day, moment } from '../frame/dates';
import { Field } from '../frame/Field';
import { May } from '../frame/May';
import { Part } from './MemberPage';
import { MemberState } from './member';

/** Who belongs to it, who is asked to, and asking more. */
export function OrganisationPeople({ one }: { one: Schemas['OrganisationView'] }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const [draft, setDraft] = useState({ email: '', manages: false });
  const act = useMutation({
    mutationFn: async (what: () => Promise<unknown>) => {
      await what();
    },
    onSettled: () => queries.invalidateQueries(),
  });
  const path = (member: string) => ({ params: { path: { key: one.key, member } } });
  const invited = (invitation: string) => ({ params: { path: { key: one.key, invitation } } });
  const refused = act.error instanceof Refused ? act.error : undefined;
  const now = new Date().toISOString();
  return (
    <Part title={t('organisation.people')}>
      {act.isError && !refused?.about('email') && (
        <p className="bad" role="alert">
          {act.error.message}
        </p>
      )}
      {one.people?.length === 0 && one.invitations?.length === 0 && <p className="hint">{t('organisation.nobody')}</p>}
      <ul className="rows">
        {one.people?.map((person) => (
          <li key={person.member}>
            <div>
              <Link to={`/members/${person.member}`}>
                <b>{person.name}</b>
              </Link>{' '}
              {person.manages && <span className="state">{t('organisation.manager')}</span>}{' '}
              {person.status !== 'active' && <MemberState status={person.status} />}
              <p className="hint">
                {person.email} · {t('organisation.since', { at: day(person.joinedAt) })}
              </p>
            </div>
            <May scope="people">
              <div className="side">
                <button
                  type="button"
                  className="btn"
                  disabled={act.isPending}
                  aria-label={t(person.manages ? 'organisation.noManagerOf' : 'organisation.makeManagerOf', { name: person.name })}
                  onClick={() =>
                    act.mutate(() =>
                      good(
                        api.PUT('/api/v1/organisations/{key}/people/{member}', {
                          ...path(person.member),
                          body: { manages: !person.manages },
                        }),
                      ),
                    )
                  }
                >
                  {t(person.manages ? 'organisation.noManager' : 'organisation.makeManager')}
                </button>
                <button
                  type="button"
                  className="btn"
                  disabled={act.isPending}
                  aria-label={t('organisation.leaveOf', { name: person.name })}
                  onClick={() => act.mutate(() => good(api.DELETE('/api/v1/organisations/{key}/people/{member}', path(person.member))))}
                >
                  {t('organisation.leave')}
                </button>
              </div>
            </May>
          </li>
        ))}
        {one.invitations?.map((asked) => (
          <li key={asked.id}>
            <div>
              <b>{asked.email}</b>{' '}
              <span className={asked.until <= now ? 'state off' : 'state exempt'}>
                {t(asked.until <= now ? 'organisation.late' : 'organisation.asked')}
              </span>
              <p className="hint">{t('organisation.writtenTo', { at: moment(asked.sentAt), by: asked.by })}</p>
            </div>
            <May scope="people">
              <div className="side">
                <button
                  type="button"
                  className="btn"
                  disabled={act.isPending}
                  aria-label={t('organisation.remindOf', { email: asked.email })}
                  onClick={() =>
                    act.mutate(() => good(api.POST('/api/v1/organisations/{key}/invitations/{invitation}/letter', invited(asked.id))))
                  }
                >
                  {t('organisation.remind')}
                </button>
                <button
                  type="button"
                  className="btn"
                  disabled={act.isPending}
                  aria-label={t('organisation.withdrawOf', { email: asked.email })}
                  onClick={() =>
                    act.mutate(() => good(api.DELETE('/api/v1/organisations/{key}/invitations/{invitation}', invited(asked.id))))
                  }
                >
                  {t('organisation.withdraw')}
                </button>
              </div>
            </May>
          </li>
        ))}
      </ul>
      <May scope="people">
        <p className="hint">{t('organisation.emailHint')}</p>
        <form
          className="give invite"
          onSubmit={(e) => {
            e.preventDefault();
            act.mutate(
              () => good(api.POST('/api/v1/organisations/{key}/invitations', { params: { path: { key: one.key } }, body: draft })),
              { onSuccess: () => setDraft({ email: '', manages: false }) },
            );
          }}
        >
          <Field
            id="invite-email"
            type="email"
            label={t('organisation.email')}
            required
            bad={refused?.about('email')}
            value={draft.email}
            onChange={(e) => setDraft({ ...draft, email: e.currentTarget.value })}
          />
          <label className="tick">
            <input type="checkbox" checked={draft.manages} onChange={(e) => setDraft({ ...draft, manages: e.currentTarget.checked })} />{' '}
            {t('organisation.asManager')}
          </label>
          <button type="submit" className="btn prime" disabled={act.isPending || one.over || one.taken >= one.seats}>
            {t('organisation.invite')}
          </button>
        </form>
      </May>
    </Part>
  );
}
