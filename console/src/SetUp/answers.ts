import type { Schemas } from '../api/client';

type Draft = Schemas['SetUpDraft'];

/** Whom the closed part lets in, as it is asked: whoever signs in, whoever holds one of what is sold, or an audience of one's own. */
export type WhoWay = 'signed-in' | 'plans' | 'other';

/** The answers as the page holds them. */
export type Answers = Required<
  Pick<Draft, 'name' | 'language' | 'timeZone' | 'others' | 'joining' | 'signIn' | 'lands' | 'notices' | 'look'>
> & {
  closed: string[];
  sells: Schemas['SoldPlan'][];
  way: WhoWay;
  who: string;
};

/** What is usual of a site that nothing is known of yet. */
const zone = () => Intl.DateTimeFormat().resolvedOptions().timeZone || 'UTC';
const likely = /memb|mitglied|intern|course|kurs|premium|patron|socio|soci[oae]s?$|membre|leden|czlonk/i;

/** The addresses that close a part: itself and all beneath it. What is a pattern, a file or an item stands for itself. */
export function placesOf(said: string): string[] {
  const place = said.trim();
  if (!place.startsWith('/')) {
    return place.includes(':') || place === 'site' ? [place] : placesOf(`/${place}`);
  }

  const bare = place.length > 1 ? place.replace(/\/+$/, '') : place;
  return place.includes('*') || /\.[a-z0-9]{1,5}$/i.test(place) ? [place] : bare === '/' ? ['/**'] : [bare, `${bare}/**`];
}

/** Places as people read them: a part and all beneath it are one. */
export function shownOf(closed: string[]): { said: string; all: boolean }[] {
  const all = new Set(closed);
  return closed
    .filter((place) => !(place.endsWith('/**') && all.has(place.slice(0, -3))))
    .map((place) => ({ said: place, all: all.has(`${place}/**`) }));
}

/** The answers that a site as it is would give; of a new one, what its front page says. */
export function answersOf(setUp: Schemas['SetUpAsked'], site: Schemas['FoundSiteView'], me: string): Answers {
  const { answers, isNew } = setUp;
  const sells = answers.sells ?? [];
  const plans = sells.map((one) => `plan:${one.key}`).join(' or ');
  const who = answers.who ?? '';
  const likelyParts = isNew && !answers.closed ? site.parts.filter((part) => likely.test(part.address)).slice(0, 1) : [];
  const closed = answers.closed ?? likelyParts.flatMap((part) => placesOf(part.address));
  return {
    name: (isNew && site.title) || (answers.name ?? ''),
    language: (isNew && site.language) || (answers.language ?? 'en'),
    timeZone: isNew && answers.timeZone === 'UTC' ? zone() : (answers.timeZone ?? 'UTC'),
    closed,
    sells,
    who,
    way: !who || who === 'signed-in' ? 'signed-in' : who === plans ? 'plans' : 'other',
    others: answers.others ?? (isNew ? 'listed' : null),
    joining: answers.joining ?? 'closed',
    signIn: answers.signIn ?? 'password',
    lands: answers.lands ?? '',
    notices: answers.notices ?? (isNew ? me : ''),
    look: isNew && !site.fault ? '/' : '',
  };
}

/** What is sent. An answer that is not given leaves what it is about as it is. */
export function draftOf(answers: Answers): Draft {
  const { closed, sells, way, who, lands, look, ...rest } = answers;
  const plans = way === 'plans' && sells.length > 0;
  return {
    ...rest,
    closed: closed.length > 0 ? closed : null,
    sells: sells.length > 0 ? sells : null,
    who: plans ? null : way === 'other' && who.trim() ? who : 'signed-in',
    others: closed.length > 0 ? rest.others : null,
    lands: (lands ?? '').trim() || null,
    look: (look ?? '').trim() || null,
  };
}
