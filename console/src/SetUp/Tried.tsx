import { useMutation } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import { useTranslation } from 'react-i18next';
import { Link } from 'react-router';
import { api, good, type Schemas } from '../api/client';
import { lines } from '../api/lines';
import { useShownPages } from '../Pages/Glance';

type Check = Schemas['SetUpCheckView'];
type Line = Schemas['SetUpCheckLine'];

/** What was tried on the site and what came of it; tried at once, and as often as one likes. */
export function Tried({ notices, comesUp }: { notices: string | null | undefined; comesUp: boolean }) {
  const { t } = useTranslation();
  const [found, setFound] = useState<Check[]>([]);
  const begun = useRef(false);
  const head = useRef<HTMLHeadingElement>(null);
  const check = useMutation({
    mutationFn: async () => {
      const so: Check[] = [];
      setFound(so);
      const last = await lines<Line>('setup/check', {}, (line) => {
        if (line.check) {
          so.push(line.check);
          setFound([...so]);
        }
      });
      if (last.stage === 'failed') {
        throw new Error(last.detail ?? '');
      }
    },
  });
  const letter = useMutation({
    mutationFn: () => good(api.POST('/api/v1/setup/letter', { body: { to: null } })),
    onSuccess: () => check.mutate(),
  });
  useEffect(() => {
    if (!begun.current) {
      begun.current = true;
      check.mutate();
      if (comesUp) {
        head.current?.focus({ preventScroll: true });
        head.current?.scrollIntoView({ block: 'start', behavior: 'smooth' });
      }
    }
  }, [check, comesUp]);
  const wrong = found.filter((one) => one.state === 'wrong').length;
  const waiting = found.filter((one) => one.state === 'waiting').length;
  return (
    <section className="sheet" aria-labelledby="tried">
      <h2 id="tried" ref={head} tabIndex={-1}>
        {t(check.isPending ? 'setUp.trying' : wrong > 0 ? 'setUp.triedWrong' : waiting > 0 ? 'setUp.triedWaiting' : 'setUp.triedGood', {
          count: wrong,
        })}
      </h2>
      <ul className="tried" aria-live="polite">
        {found.map((one) => (
          <li key={one.what + one.said} className={one.state}>
            <b>{t(`setUp.states.${one.state}`)}</b>
            <div>
              {one.said}
              {one.mend && <p className="hint">{one.mend}</p>}
              {one.what === 'letter' && one.state !== 'good' && notices && (
                <button type="button" className="btn" disabled={letter.isPending} onClick={() => letter.mutate()}>
                  {t('setUp.sendLetter', { to: notices })}
                </button>
              )}
            </div>
          </li>
        ))}
      </ul>
      {(check.error ?? letter.error) && (
        <p className="bad" role="alert">
          {(check.error ?? letter.error)?.message}
        </p>
      )}
      <p className="go">
        <button type="button" className="btn" disabled={check.isPending} onClick={() => check.mutate()}>
          {t('setUp.tryAgain')}
        </button>
      </p>
    </section>
  );
}

/** The pages that the site has now, small, each leading to where its words are changed. */
export function Made() {
  const { t } = useTranslation();
  const shown = useShownPages();
  return (
    <section className="sheet" aria-labelledby="made">
      <h2 id="made">{t('setUp.pages')}</h2>
      <p className="hint">{t('setUp.pagesLead')}</p>
      <ul className="made">
        {shown.map((page) => (
          <li key={page.key}>
            <div>
              <iframe title={page.title} src={page.look ?? ''} loading="lazy" tabIndex={-1} inert />
            </div>
            <Link to={`/pages/${page.key}`}>{page.title}</Link>
          </li>
        ))}
      </ul>
      <p className="go">
        <Link className="btn" to="/pages/look">
          {t('setUp.toLook')}
        </Link>
        <Link className="btn" to="/members/import">
          {t('setUp.toMembers')}
        </Link>
        <Link className="btn" to="/sweep">
          {t('setUp.toSweep')}
        </Link>
      </p>
    </section>
  );
}
