import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { useTranslation } from 'react-i18next';
import { Link, useNavigate, useParams, useSearchParams } from 'react-router';
import { api, type Effect, type Gate, good, Refused } from '../api/client';
import { Dialog } from '../frame/Dialog';
import { Failed, Loading } from '../frame/Page';
import { useSettled } from '../frame/useSettled';
import { SharedPasswords } from '../Passwords/SharedPasswords';
import { Changes } from './Changes';
import { type Draft, draftOf, fresh } from './draft';
import { EffectPanel } from './EffectPanel';
import { GateState } from './GatesPage';
import { MoreFields } from './MoreFields';
import { SentenceEditor } from './SentenceEditor';
import { UndoButton } from './UndoButton';

/** One gate: read and edited as a sentence, with its effect beneath it. */
export function GatePage() {
  const { key } = useParams();
  const gate = useQuery({
    queryKey: ['gates', key],
    queryFn: () => good(api.GET('/api/v1/gates/{key}', { params: { path: { key: key ?? '' } } })),
    enabled: key !== undefined,
  });
  if (key === undefined) {
    return <Editor gate={null} />;
  }

  if (gate.isPending) {
    return <Loading />;
  }

  return gate.isError ? (
    <Failed fault={gate.error} again={() => void gate.refetch()} />
  ) : (
    <Editor key={gate.data.version} gate={gate.data} />
  );
}

function Editor({ gate }: { gate: Gate | null }) {
  const { t } = useTranslation();
  const go = useNavigate();
  const queries = useQueryClient();
  const [search] = useSearchParams();
  const start = gate
    ? draftOf(gate)
    : { ...fresh, covers: search.getAll('covers'), title: search.getAll('covers').join(', ').replaceAll('path:', '') };
  const [draft, setDraft] = useState<Draft>(start);
  const [text, setText] = useState<string | null>(null);
  const [removing, setRemoving] = useState(false);
  const set = (change: Partial<Draft>) => setDraft((old) => ({ ...old, ...change }));
  const isDirty = JSON.stringify(draft) !== JSON.stringify(start);
  const asked = useSettled(draft, 250);
  const preview = useQuery<Effect, Error>({
    queryKey: ['effect', gate?.key ?? '', gate?.version ?? 0, JSON.stringify(asked)],
    queryFn: () => good(api.POST('/api/v1/gates/preview', { body: { key: gate?.key ?? null, draft: asked } })),
    placeholderData: (old) => old,
    enabled: (asked.covers?.length ?? 0) > 0,
  });
  const done = async () => {
    await queries.invalidateQueries();
    await go('/gates');
  };
  const save = useMutation({
    mutationFn: () =>
      gate
        ? good(
            api.PUT('/api/v1/gates/{key}', {
              params: { path: { key: gate.key } },
              headers: { 'If-Match': `"${gate.version}"` },
              body: draft,
            }),
          )
        : good(api.POST('/api/v1/gates', { body: draft })),
    onSuccess: done,
  });
  useEffect(() => {
    const warn = (event: BeforeUnloadEvent) => event.preventDefault();
    if (isDirty && !save.isSuccess) {
      window.addEventListener('beforeunload', warn);
    }

    return () => window.removeEventListener('beforeunload', warn);
  }, [isDirty, save.isSuccess]);

  const refused = preview.error instanceof Refused && !preview.isPlaceholderData ? preview.error : null;
  const audienceFault = refused?.about('audience');
  const started = (draft.covers?.length ?? 0) > 0;
  return (
    <>
      <header className="top">
        <div style={{ flex: 1 }}>
          <p className="kicker">
            <Link to="/gates">{t('gate.crumb')}</Link> / {gate?.key ?? t('gate.new')}
          </p>
          <h1>
            <input
              className="titlefield"
              aria-label={t('gate.nameLabel')}
              placeholder={t('gate.new')}
              value={draft.title ?? ''}
              onChange={(e) => set({ title: e.currentTarget.value })}
            />
          </h1>
        </div>
        {gate && (
          <div className="tools">
            <GateState gate={gate} />
            <UndoButton gate={gate.key} />
            <button type="button" className="btn danger" onClick={() => setRemoving(true)}>
              {t('gate.remove')}
            </button>
          </div>
        )}
      </header>
      <section className="sheet sentence" aria-label={t('gate.section')}>
        <SentenceEditor
          draft={draft}
          parts={started ? (preview.data?.parts ?? gate?.parts) : undefined}
          rows={(preview.data?.audience === draft.audience ? preview.data?.audienceRows : gate?.audienceRows) ?? null}
          set={set}
        />
        <div className="astext">
          {draft.kind === 'exemption' ? (
            <span>{t('gate.exemptionAudience')}</span>
          ) : (
            <>
              <label htmlFor="astext">{t('gate.asText')}</label>
              <input
                id="astext"
                className="field"
                spellCheck={false}
                value={text ?? draft.audience ?? ''}
                aria-invalid={audienceFault !== undefined}
                aria-describedby={audienceFault ? 'audience-bad' : undefined}
                onChange={(e) => {
                  setText(e.currentTarget.value);
                  set({ audience: e.currentTarget.value });
                }}
                onBlur={() => setText(null)}
              />
            </>
          )}
        </div>
        {audienceFault && (
          <p className="bad" id="audience-bad">
            {audienceFault}
          </p>
        )}
        <MoreFields draft={draft} refused={refused} set={set} />
      </section>
      {save.isError && (
        <p className="note" role="alert">
          {save.error.message}
        </p>
      )}
      {started && (isDirty || !gate) && (
        <EffectPanel effect={preview.data} refused={refused} stale={preview.isFetching} title={t('effect.title')} />
      )}
      {gate?.audience?.includes('password') && <SharedPasswords gate={gate.key} />}
      {gate && <Changes subject={gate.key} />}
      {(isDirty || !gate) && (
        <footer className="bar">
          <span role="status">{isDirty && t('gate.unsaved')}</span>
          <button type="button" className="btn" onClick={() => (gate ? setDraft(start) : void go('/gates'))}>
            {t('gate.putBack')}
          </button>
          <button
            type="button"
            className="btn prime"
            disabled={!started || save.isPending || refused !== null}
            onClick={() => save.mutate()}
          >
            {t('gate.save')}
          </button>
        </footer>
      )}
      {gate && removing && <RemoveDialog gate={gate} close={() => setRemoving(false)} done={done} />}
    </>
  );
}

function RemoveDialog({ gate, close, done }: { gate: Gate; close: () => void; done: () => Promise<void> }) {
  const { t } = useTranslation();
  const effect = useQuery({
    queryKey: ['effect', 'remove', gate.key, gate.version],
    queryFn: () => good(api.POST('/api/v1/gates/preview', { body: { key: gate.key, draft: null } })),
  });
  const remove = useMutation({
    mutationFn: () =>
      good(api.DELETE('/api/v1/gates/{key}', { params: { path: { key: gate.key } }, headers: { 'If-Match': `"${gate.version}"` } })),
    onSuccess: done,
  });
  return (
    <Dialog title={t('gate.removeSure')} close={close}>
      <p>{t('gate.removeLead')}</p>
      <EffectPanel
        effect={effect.data}
        refused={effect.error instanceof Refused ? effect.error : null}
        stale={false}
        title={t('effect.remove')}
      />
      {remove.isError && <p className="note">{remove.error.message}</p>}
      <footer className="bar">
        <button type="button" className="btn" onClick={close}>
          {t('gate.keep')}
        </button>
        <button type="button" className="btn danger" disabled={remove.isPending} onClick={() => remove.mutate()}>
          {t('gate.remove')}
        </button>
      </footer>
    </Dialog>
  );
}
