import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { api, good, Refused, type Schemas } from '../api/client';
import { Failed, Loading, PageHead } from '../frame/Page';
import { useSettled } from '../frame/useSettled';
import { useMe } from '../People/me';
import { type Answers, answersOf, draftOf } from './answers';
import { Closed, Joining, Look, Site, Who } from './Questions';
import { Made, Tried } from './Tried';

/** The site in one step: five questions, what is made of the answers beside them, and whether it holds. */
export function SetUpPage() {
  const { t } = useTranslation();
  const setUp = useQuery({ queryKey: ['setup'], queryFn: () => good(api.GET('/api/v1/setup')) });
  const site = useQuery({ queryKey: ['setup', 'site'], queryFn: () => good(api.GET('/api/v1/setup/site')), staleTime: 60_000 });
  const [round, setRound] = useState(0);
  const fault = setUp.error ?? site.error;
  return (
    <>
      <PageHead title={t('setUp.title')} lead={t('setUp.lead')} />
      {fault && <Failed fault={fault} again={() => void Promise.all([setUp.refetch(), site.refetch()])} />}
      {!fault && !(setUp.data && site.data) && <Loading />}
      {setUp.data && site.data && (
        <Steps key={setUp.data.revision} setUp={setUp.data} site={site.data} onMade={() => setRound(round + 1)} />
      )}
      {setUp.data && (round > 0 || !setUp.data.isNew) && (
        <>
          <Tried key={round} notices={setUp.data.answers.notices} comesUp={round > 0} />
          <Made />
        </>
      )}
    </>
  );
}

function Steps({ setUp, site, onMade }: { setUp: Schemas['SetUpAsked']; site: Schemas['FoundSiteView']; onMade: () => void }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const me = useMe();
  const [answers, setAnswers] = useState(() => answersOf(setUp, site, me.email));
  const draft = draftOf(answers);
  const settled = useSettled(JSON.stringify(draft), 350);
  const would = useQuery({
    queryKey: ['setup', 'would', setUp.revision, settled],
    queryFn: () => good(api.POST('/api/v1/setup', { params: { query: { dryRun: true } }, body: JSON.parse(settled) })),
    placeholderData: (before) => before,
    retry: false,
  });
  const make = useMutation({
    mutationFn: () => good(api.POST('/api/v1/setup', { params: { query: { dryRun: false, revision: setUp.revision } }, body: draft })),
    onSuccess: async () => {
      await queries.invalidateQueries();
      onMade();
    },
  });
  const fault = make.error ?? would.error;
  const refused = fault instanceof Refused ? fault : undefined;
  const asked = {
    answers,
    refused,
    set: (part: Partial<typeof answers>) => {
      make.reset();
      setAnswers({ ...answers, ...part });
    },
  };
  return (
    <form
      className="set-up"
      onSubmit={(e) => {
        e.preventDefault();
        make.mutate();
      }}
    >
      <div>
        <Site {...asked} setUp={setUp} site={site} />
        <Closed {...asked} site={site} />
        <Who {...asked} />
        <Joining {...asked} />
        <Look {...asked} />
      </div>
      <aside className="why" aria-label={t('setUp.makes')}>
        <h2>{t('setUp.makes')}</h2>
        {fault ? (
          <p className="bad" role="alert">
            {refused?.faults.length ? t('setUp.wrong', { count: refused.faults.length }) : fault.message}
          </p>
        ) : (
          <Would made={would.data} answers={answers} />
        )}
        <div className="acts">
          <button
            type="submit"
            className="btn prime"
            disabled={make.isPending || would.isError || settled !== JSON.stringify(draft) || would.data?.difference.isEmpty !== false}
          >
            {t(make.isPending ? 'setUp.making' : 'setUp.make')}
          </button>
        </div>
      </aside>
    </form>
  );
}

/** What would be made: the gate as its sentence, the rest in the words of the answers. */
function Would({ made, answers }: { made: Schemas['SetUpOutcome'] | undefined; answers: Answers }) {
  const { t } = useTranslation();
  // What has several parts inside says the one that was asked.
  const worded: Record<string, string> = {
    look: t('setUp.lookOfSite'),
    joining: t(`setUp.joins.${answers.joining}`),
    letters: [t(`setUp.signIns.${answers.signIn}`), answers.notices].filter(Boolean).join('; '),
  };
  if (!made) {
    return <Loading lines={3} />;
  }

  const { changes } = made.difference;
  return changes.length === 0 ? (
    <p className="hint">{t('setUp.nothing')}</p>
  ) : (
    <ul className="would">
      {changes.map((change) => (
        <li key={change.section + change.key}>
          <b>{t(`setUp.parts.${change.section}`, { key: change.key })}</b> <span className="hint">{t(`setUp.whats.${change.what}`)}</span>
          {change.section === 'gates' && made.gate ? (
            <p className="sent">{made.gate}</p>
          ) : (
            change.changes.length > 0 && (
              <dl>
                {change.changes.map((one) => (
                  <div key={one.field}>
                    <dt>{t(`setUp.fields.${one.field}`, one.field)}</dt>
                    <dd>{worded[one.field] ?? shortly(one.after) ?? t('history.nothing')}</dd>
                  </div>
                ))}
              </dl>
            )
          )}
        </li>
      ))}
    </ul>
  );
}

const shortly = (said: string | null) => (said && said.length > 90 ? `${said.slice(0, 90)}…` : said);
