import { type ReactNode, useState } from 'react';
import { useTranslation } from 'react-i18next';
import type { Refused, Schemas } from '../api/client';
import { Field } from '../frame/Field';
import { AudienceField } from '../People/AudienceField';
import { LengthField, spoken } from '../People/LengthField';
import { type Answers, placesOf, shownOf, type WhoWay } from './answers';

type Asked = { answers: Answers; set: (part: Partial<Answers>) => void; refused: Refused | undefined };
const ways: WhoWay[] = ['signed-in', 'plans', 'other'];

/** One question: its number, its words, and what answers it. */
function Question({ number, title, lead, children }: { number: number; title: string; lead?: string; children: ReactNode }) {
  return (
    <section className="sheet question" aria-labelledby={`question-${number}`}>
      <h2 id={`question-${number}`}>
        <i aria-hidden="true">{number}</i> {title}
      </h2>
      {lead && <p className="hint">{lead}</p>}
      {children}
    </section>
  );
}

/** What the site is. */
export function Site({ answers, set, refused, setUp, site }: Asked & { setUp: Schemas['SetUpAsked']; site: Schemas['FoundSiteView'] }) {
  const { t } = useTranslation();
  return (
    <Question number={1} title={t('setUp.site')}>
      <p className={site.fault ? 'bad' : 'hint'}>
        {site.fault
          ? t('setUp.siteSilent', { at: site.at, fault: site.fault })
          : t(setUp.origin ? 'setUp.siteBehind' : 'setUp.siteThere', { url: setUp.siteUrl, origin: setUp.origin })}
      </p>
      <div className="more">
        <Field
          id="set-up-name"
          label={t('setUp.name')}
          value={answers.name ?? ''}
          bad={refused?.about('name')}
          onChange={(e) => set({ name: e.currentTarget.value })}
        />
        <Field
          id="set-up-language"
          label={t('setUp.language')}
          hint={t('setUp.languageHint')}
          value={answers.language ?? ''}
          bad={refused?.about('language')}
          onChange={(e) => set({ language: e.currentTarget.value.trim() })}
        />
        <Field
          as="select"
          id="set-up-zone"
          label={t('setUp.zone')}
          value={answers.timeZone ?? 'UTC'}
          bad={refused?.about('timeZone')}
          onChange={(e) => set({ timeZone: e.currentTarget.value })}
        >
          {['UTC', ...Intl.supportedValuesOf('timeZone').filter((zone) => zone !== 'UTC')].map((zone) => (
            <option key={zone}>{zone}</option>
          ))}
        </Field>
      </div>
    </Question>
  );
}

/** What of it is closed: the parts that its front page leads to, and whatever else the owner names. */
export function Closed({ answers, set, refused, site }: Asked & { site: Schemas['FoundSiteView'] }) {
  const { t } = useTranslation();
  const shown = shownOf(answers.closed);
  const known = new Map(site.parts.map((part) => [part.address, part.title]));
  const others = shown.filter((one) => !known.has(one.said));
  const has = (address: string) => placesOf(address).every((place) => answers.closed.includes(place));
  const flip = (said: string) => {
    const places = placesOf(said);
    set({ closed: has(said) ? answers.closed.filter((place) => !places.includes(place)) : [...new Set([...answers.closed, ...places])] });
  };
  return (
    <Question number={2} title={t('setUp.closed')} lead={t(site.parts.length > 0 ? 'setUp.closedFound' : 'setUp.closedLead')}>
      <ul className="parts">
        {site.parts.map((part) => (
          <li key={part.address}>
            <label className="opt">
              <input type="checkbox" checked={has(part.address)} onChange={() => flip(part.address)} />
              <span>
                {part.title || part.address} {part.title && <code>{part.address}</code>}
              </span>
            </label>
          </li>
        ))}
        {others.map(({ said, all }) => (
          <li key={said}>
            <label className="opt">
              <input
                type="checkbox"
                checked
                onChange={() => set({ closed: answers.closed.filter((place) => place !== said && place !== `${said}/**`) })}
              />
              <span>
                <code>{said}</code> {all && t('setUp.beneath')}
              </span>
            </label>
          </li>
        ))}
      </ul>
      <Adding
        id="set-up-place"
        label={t('setUp.place')}
        hint={t('setUp.placeHint')}
        bad={refused?.about('closed')}
        add={(said) => set({ closed: [...new Set([...answers.closed, ...placesOf(said)])] })}
      />
      <fieldset className="ticks">
        <legend>{t('setUp.others')}</legend>
        {['listed', 'hidden'].map((presence) => (
          <label key={presence}>
            <input
              type="radio"
              name="others"
              checked={(answers.others ?? 'listed') === presence}
              disabled={answers.closed.length === 0}
              onChange={() => set({ others: presence })}
            />{' '}
            {t(`setUp.othersFind.${presence}`)}
          </label>
        ))}
      </fieldset>
    </Question>
  );
}

/** Whom that lets in, and what is sold. */
export function Who({ answers, set, refused }: Asked) {
  const { t } = useTranslation();
  const [length, setLength] = useState('');
  return (
    <Question number={3} title={t('setUp.who')} lead={t('setUp.whoLead')}>
      {answers.sells.length > 0 && (
        <ul className="chips" aria-label={t('setUp.sells')}>
          {answers.sells.map((one) => (
            <li key={one.key ?? one.title}>
              {one.title}
              {one.length && <small>{t('setUp.lasts', { length: spoken(one.length, t) })}</small>}
              {!one.key && (
                <button
                  type="button"
                  aria-label={t('setUp.dropPlan', { title: one.title })}
                  onClick={() => {
                    const sells = answers.sells.filter((other) => other !== one);
                    set({ sells, way: sells.length === 0 && answers.way === 'plans' ? 'signed-in' : answers.way });
                  }}
                >
                  ✕
                </button>
              )}
            </li>
          ))}
        </ul>
      )}
      <Adding
        id="set-up-plan"
        label={t('setUp.plan')}
        hint={t('setUp.planHint')}
        bad={refused?.about('sells')}
        add={(title) =>
          set({
            sells: [...answers.sells.filter((one) => one.title !== title), { title, ...(length ? { length } : {}) }],
            way: answers.way === 'signed-in' ? 'plans' : answers.way,
          })
        }
        beside={<LengthField brief bad={undefined} value={length} set={setLength} />}
      />
      <fieldset className="ticks">
        <legend>{t('setUp.lets')}</legend>
        {ways.map((way) => (
          <label key={way}>
            <input
              type="radio"
              name="way"
              checked={answers.way === way}
              disabled={way === 'plans' && answers.sells.length === 0}
              onChange={() => set({ way })}
            />{' '}
            {t(`setUp.ways.${way}`)}
          </label>
        ))}
      </fieldset>
      {answers.way === 'other' ? (
        <AudienceField
          id="set-up-who"
          label={t('setUp.audience')}
          bad={refused?.about('who')}
          value={answers.who}
          set={(who) => set({ who })}
        />
      ) : (
        refused?.about('who') && <p className="bad">{refused.about('who')}</p>
      )}
    </Question>
  );
}

/** How people come in, and where they land. */
export function Joining({ answers, set, refused }: Asked) {
  const { t } = useTranslation();
  return (
    <Question number={4} title={t('setUp.joining')}>
      <div className="more">
        <Field
          as="select"
          id="set-up-joining"
          label={t('setUp.mayJoin')}
          value={answers.joining ?? 'closed'}
          bad={refused?.about('joining')}
          onChange={(e) => set({ joining: e.currentTarget.value })}
        >
          {['closed', 'invitation', 'approval', 'open'].map((way) => (
            <option key={way} value={way}>
              {t(`setUp.joins.${way}`)}
            </option>
          ))}
        </Field>
        <Field
          as="select"
          id="set-up-sign-in"
          label={t('setUp.signIn')}
          value={answers.signIn ?? 'password'}
          bad={refused?.about('signIn')}
          onChange={(e) => set({ signIn: e.currentTarget.value })}
        >
          {['password', 'letter'].map((way) => (
            <option key={way} value={way}>
              {t(`setUp.signIns.${way}`)}
            </option>
          ))}
        </Field>
        <Field
          id="set-up-lands"
          label={t('setUp.lands')}
          hint={t('setUp.landsHint')}
          placeholder={shownOf(answers.closed)[0]?.said ?? '/'}
          value={answers.lands ?? ''}
          bad={refused?.about('lands')}
          onChange={(e) => set({ lands: e.currentTarget.value })}
        />
        <Field
          id="set-up-notices"
          type="email"
          label={t('setUp.notices')}
          hint={t('setUp.noticesHint')}
          value={answers.notices ?? ''}
          bad={refused?.about('notices')}
          onChange={(e) => set({ notices: e.currentTarget.value.trim() })}
        />
      </div>
    </Question>
  );
}

/** Whether the service's pages take the look of the site's. */
export function Look({ answers, set, refused }: Asked) {
  const { t } = useTranslation();
  return (
    <Question number={5} title={t('setUp.look')} lead={t('setUp.lookLead')}>
      <label className="tick">
        <input type="checkbox" checked={answers.look !== ''} onChange={(e) => set({ look: e.currentTarget.checked ? '/' : '' })} />{' '}
        {t('setUp.take')}
      </label>
      {answers.look !== '' && (
        <Field
          id="set-up-look"
          label={t('setUp.takeFrom')}
          value={answers.look ?? ''}
          bad={refused?.about('look')}
          onChange={(e) => set({ look: e.currentTarget.value || ' ' })}
        />
      )}
    </Question>
  );
}

/** A field whose words go into a list, by its button or by Enter. */
function Adding({
  id,
  label,
  hint,
  bad,
  add,
  beside,
}: {
  id: string;
  label: string;
  hint: string;
  bad: string | undefined;
  add: (said: string) => void;
  /** What else is said of it, between the field and its button. */
  beside?: ReactNode;
}) {
  const { t } = useTranslation();
  const [typed, setTyped] = useState('');
  const take = () => {
    if (typed.trim()) {
      add(typed.trim());
      setTyped('');
    }
  };
  return (
    <div className={beside ? 'adds with' : 'adds'}>
      <Field
        id={id}
        label={label}
        hint={hint}
        bad={bad}
        value={typed}
        onChange={(e) => setTyped(e.currentTarget.value)}
        onBlur={beside ? undefined : take}
        onKeyDown={(e) => {
          if (e.key === 'Enter') {
            e.preventDefault();
            take();
          }
        }}
      />
      {beside}
      <button type="button" className="btn" disabled={!typed.trim()} onClick={take}>
        {t('setUp.add')}
      </button>
    </div>
  );
}
