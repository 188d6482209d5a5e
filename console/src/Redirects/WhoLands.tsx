import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { api, good, type Schemas } from '../api/client';
import { Field } from '../frame/Field';
import { useSettled } from '../frame/useSettled';
import { occasions } from './EditRedirect';

/** Who lands where, and why: for any viewpoint or member, on any occasion. */
export function WhoLands() {
  const { t } = useTranslation();
  const [asked, setAsked] = useState({ as: 'signed-in', on: 'sign-in', wanted: '' });
  const settled = useSettled(JSON.stringify(asked), 250);
  const viewpoints = useQuery({ queryKey: ['viewpoints'], queryFn: () => good(api.GET('/api/v1/viewpoints')) });
  const found = useQuery({
    queryKey: ['redirects', 'try', settled],
    queryFn: () => {
      const question = JSON.parse(settled) as typeof asked;
      return good(api.POST('/api/v1/redirects/try', { body: { ...question, wanted: question.wanted || null } }));
    },
    placeholderData: (before) => before,
    retry: false,
  });
  return (
    <section className="sheet wholands" aria-label={t('redirects.whoLands')}>
      <h2>{t('redirects.whoLands')}</h2>
      <Field
        id="lands-as"
        label={t('redirects.as')}
        hint={t('redirects.asHint')}
        list="lands-known"
        value={asked.as}
        onChange={(e) => setAsked({ ...asked, as: e.currentTarget.value })}
      />
      <datalist id="lands-known">
        {viewpoints.data?.map((viewpoint) => (
          <option key={viewpoint.key} value={viewpoint.key}>
            {viewpoint.title}
          </option>
        ))}
      </datalist>
      <Field
        as="select"
        id="lands-on"
        label={t('redirects.on')}
        value={asked.on}
        onChange={(e) => setAsked({ ...asked, on: e.currentTarget.value })}
      >
        {occasions.map((on) => (
          <option key={on} value={on}>
            {t(`redirects.when.${on}`)}
          </option>
        ))}
      </Field>
      <Field
        id="lands-wanted"
        label={t('redirects.wanted')}
        placeholder="/members/calendar"
        value={asked.wanted}
        onChange={(e) => setAsked({ ...asked, wanted: e.currentTarget.value })}
      />
      {found.isError && <p className="bad">{found.error.message}</p>}
      {found.isSuccess && <Landing found={found.data} />}
    </section>
  );
}

function Landing({ found }: { found: Schemas['LandingView'] }) {
  const { t } = useTranslation();
  return (
    <div role="status" className="landing">
      <p>
        {found.who} → <b>{found.to ?? t('redirects.nowhere')}</b>
      </p>
      <p className="hint">{found.reason}</p>
      {found.ways.some((way) => way.step !== 'taken') && (
        <ul>
          {found.ways
            .filter((way) => way.step !== 'taken')
            .map((way, at) => (
              <li key={at} className="hint">
                <b>{way.rule ?? t(`redirects.ways.${way.why}`)}</b> {way.to}: {t(`redirects.steps.${way.step}`)}
              </li>
            ))}
        </ul>
      )}
    </div>
  );
}
