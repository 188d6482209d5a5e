import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { Refused, type Schemas } from '../api/client';
import { lines } from '../api/lines';
import { Dialog } from '../frame/Dialog';
import { Field } from '../frame/Field';
import { number } from '../frame/numbers';
import type { Act, Whom } from './BulkBar';
import { useFacts } from './MembersPage';

type Line = Schemas['MembersChangeLine'];

/** One thing for many members: what would change is shown first, then it is done, with progress. */
export function Bulk({ act, whom, close }: { act: Act; whom: Whom; close: () => void }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const facts = useFacts();
  const [draft, setDraft] = useState({ fact: '', from: '', until: '', words: '', subject: '', text: '' });
  const [would, setWould] = useState<Line>();
  const [done, setDone] = useState<Line>();
  const set = (part: Partial<typeof draft>) => {
    setWould(undefined);
    setDraft({ ...draft, ...part });
  };
  const said = Object.fromEntries(Object.entries(draft).filter(([, value]) => value.trim()));
  const run = useMutation({
    mutationFn: (dryRun: boolean) => lines<Line>('members/bulk', { do: act, ...whom, ...said, dryRun }, dryRun ? setWould : setDone),
    onSuccess: (_, dryRun) => (dryRun ? undefined : queries.invalidateQueries()),
  });
  const refused = run.error instanceof Refused ? run.error : undefined;
  const finished = done !== undefined && done.stage !== 'working';
  const shown = done ?? would;
  const given = act === 'give' || act === 'end';
  return (
    <Dialog title={t(`bulk.acts.${act}`)} close={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          run.mutate(would?.stage !== 'done');
        }}
      >
        {run.isError && !refused?.faults.length && (
          <p className="note" role="alert">
            {run.error.message}
          </p>
        )}
        <fieldset className="bare" disabled={done !== undefined}>
          {given && (
            <Field
              as="select"
              id="bulk-fact"
              label={t('bulk.fact')}
              required
              bad={refused?.about('fact')}
              value={draft.fact}
              onChange={(e) => set({ fact: e.currentTarget.value })}
            >
              <option value="">{t('member.choose')}</option>
              {facts.map((fact) => (
                <option key={fact.value} value={fact.value}>
                  {fact.words}
                </option>
              ))}
            </Field>
          )}
          {act === 'give' && (
            <div className="pair">
              {(['from', 'until'] as const).map((name) => (
                <Field
                  key={name}
                  id={`bulk-${name}`}
                  type="date"
                  label={t(`member.${name}Field`)}
                  bad={refused?.about(name)}
                  value={draft[name]}
                  onChange={(e) => set({ [name]: e.currentTarget.value })}
                />
              ))}
            </div>
          )}
          {(act === 'suspend' || act === 'invite') && (
            <Field
              as="textarea"
              id="bulk-words"
              label={t(act === 'invite' ? 'invite.words' : 'bulk.words')}
              hint={act === 'invite' ? t('bulk.inviteHint') : undefined}
              bad={refused?.about('words')}
              value={draft.words}
              onChange={(e) => set({ words: e.currentTarget.value })}
            />
          )}
          {act === 'tell' && (
            <>
              <Field
                id="bulk-subject"
                label={t('bulk.subject')}
                required
                bad={refused?.about('subject')}
                value={draft.subject}
                onChange={(e) => set({ subject: e.currentTarget.value })}
              />
              <Field
                as="textarea"
                id="bulk-text"
                label={t('bulk.text')}
                hint={t('bulk.textHint')}
                required
                rows={7}
                bad={refused?.about('text')}
                value={draft.text}
                onChange={(e) => set({ text: e.currentTarget.value })}
              />
            </>
          )}
        </fieldset>
        {shown && <Outcome line={shown} did={done !== undefined} />}
        <div className="bar">
          {!finished && (
            <button type="submit" className="btn prime" disabled={run.isPending || (would?.stage === 'done' && would.changed === 0)}>
              {t(would?.stage === 'done' ? `bulk.go.${act}` : 'bulk.show')}
            </button>
          )}
          <button type="button" className="btn" onClick={close}>
            {t(finished ? 'bulk.close' : 'members.form.cancel')}
          </button>
        </div>
      </form>
    </Dialog>
  );
}

function Outcome({ line, did }: { line: Line; did: boolean }) {
  const { t } = useTranslation();
  const counts = { changed: number(line.changed), same: number(line.same), done: number(line.done) };
  const words =
    line.stage === 'working'
      ? t(did ? 'bulk.working' : 'bulk.looking', counts)
      : line.stage === 'failed'
        ? (line.detail ?? '')
        : t(did ? 'bulk.did' : line.changed > 0 ? 'bulk.would' : 'bulk.wouldNone', counts);
  return (
    <div role="status" className="landing">
      <p>
        <b>{words}</b>
      </p>
      {line.total > 0 && line.stage === 'working' && <progress max={line.total} value={line.done} aria-label={words} />}
      {!did && line.whom.length > 0 && (
        <p className="hint">
          {line.whom.join(', ')}
          {line.changed > line.whom.length && ` ${t('bulk.more')}`}
        </p>
      )}
      {line.refused > 0 && (
        <>
          <p className="bad">{t('bulk.refused', { count: line.refused })}</p>
          <ul>
            {line.refusals.map((refusal) => (
              <li key={refusal.member} className="hint">
                <b>{refusal.member}</b>: {refusal.reason}
              </li>
            ))}
          </ul>
        </>
      )}
    </div>
  );
}
