import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { api, good, Refused, type Schemas } from '../api/client';
import { Field } from '../frame/Field';
import { useMay } from '../People/me';
import type { Rule } from './EntriesPage';
import { EntryTrial } from './EntryTrial';

export type Draft = Schemas['EntryDraft'];

const single = ['entry', 'link', 'price', 'about', 'behind'] as const;
const lists = ['beside', 'points'] as const;

const words = (list: string[] | null | undefined) => (list ?? []).join('\n');
const lines = (text: string) =>
  text
    .split('\n')
    .map((line) => line.trim())
    .filter((line) => line.length > 0);

/** A key for a rule of an address that none has yet. */
const keyOf = (at: string, taken: Rule[]) => {
  const slug = at
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-+|-+$/g, '');
  for (let n = 1; ; n++) {
    const key = (slug || 'entries') + (n === 1 ? '' : `-${n}`);
    if (!taken.some((rule) => rule.key === key)) {
      return key;
    }
  }
};

/** Which fields a rule has by its sort. */
const asked = (draft: Draft) => single.filter((name) => (draft.sort === 'data' ? name !== 'link' : name !== 'about' && name !== 'behind'));

/** Looks at a page or an answer, proposes what one entry is, shows what a rule would do, and keeps it. */
export function TeachEntry({ rule, address, taken, close }: { rule: Rule | undefined; address: string; taken: Rule[]; close: () => void }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const may = useMay('write');
  const [from, setFrom] = useState(rule?.at[0] ?? address);
  const [draft, setDraft] = useState<Draft | undefined>(rule);
  const look = useMutation({ mutationFn: () => good(api.POST('/api/v1/entries/propose', { body: { address: from } })) });
  const done = async () => {
    await queries.invalidateQueries();
    close();
  };
  const save = useMutation({
    mutationFn: (body: Draft) =>
      good(api.PUT('/api/v1/entries/{key}', { params: { path: { key: rule?.key ?? keyOf(body.at?.[0] ?? '', taken) } }, body })),
    onSuccess: done,
  });
  const remove = useMutation({
    mutationFn: () => good(api.DELETE('/api/v1/entries/{key}', { params: { path: { key: rule?.key ?? '' } } })),
    onSuccess: done,
  });
  const refused = save.error instanceof Refused ? save.error : undefined;
  const fault = save.error ?? remove.error;
  const set = (change: Partial<Draft>) => setDraft({ ...draft, ...change });
  return (
    <div className="teach">
      <form
        className="sheet"
        onSubmit={(e) => {
          e.preventDefault();
          if (draft) {
            save.mutate(draft);
          }
        }}
      >
        <Field
          id="entry-from"
          label={t('entries.from')}
          hint={t('entries.fromHint')}
          placeholder="/shop"
          bad={look.error?.message}
          value={from}
          onChange={(e) => setFrom(e.currentTarget.value)}
        />
        <div className="look">
          <button type="button" className="btn" disabled={look.isPending || !from} onClick={() => look.mutate()}>
            {t(look.isPending ? 'entries.looking' : 'entries.look')}
          </button>
          <button type="button" className="link" onClick={() => set({ sort: 'card', at: [from || '/'], entry: draft?.entry ?? '' })}>
            {t('entries.byHand')}
          </button>
        </div>
        {look.isSuccess && <Proposals found={look.data.proposals} chosen={draft} choose={(one) => setDraft(one)} />}
        {draft && (
          <fieldset className="bare" disabled={!may}>
            <Field
              as="textarea"
              id="entry-at"
              label={t('entries.at')}
              hint={t('entries.atHint')}
              rows={2}
              bad={refused?.about('at')}
              value={words(draft.at)}
              onChange={(e) => set({ at: e.currentTarget.value.split('\n') })}
              onBlur={() => set({ at: lines(words(draft.at)) })}
            />
            <Field
              as="select"
              id="entry-sort"
              label={t('entries.sort')}
              value={draft.sort ?? 'card'}
              onChange={(e) => set({ sort: e.currentTarget.value, link: null, about: null, behind: null })}
            >
              <option value="card">{t('entries.sorts.card')}</option>
              <option value="data">{t('entries.sorts.data')}</option>
            </Field>
            {asked(draft).map((name) => (
              <Field
                key={name}
                id={`entry-${name}`}
                label={t(`entries.fields.${name}`)}
                hint={t(`entries.hints.${draft.sort === 'data' ? 'data' : 'card'}.${name}`)}
                bad={refused?.about(name)}
                spellCheck={false}
                value={draft[name] ?? ''}
                onChange={(e) => set({ [name]: e.currentTarget.value || null })}
              />
            ))}
            {draft.sort === 'data' && (
              <details>
                <summary>{t('entries.index')}</summary>
                <label className="opt">
                  <input type="checkbox" checked={draft.blank ?? false} onChange={(e) => set({ blank: e.currentTarget.checked })} />
                  <span>{t('entries.blank')}</span>
                  <small>{t('entries.blankHint')}</small>
                </label>
                {refused?.about('blank') && <p className="bad">{refused.about('blank')}</p>}
                {lists.map((name) => (
                  <Field
                    key={name}
                    as="textarea"
                    id={`entry-${name}`}
                    label={t(`entries.fields.${name}`)}
                    hint={t(`entries.hints.data.${name}`)}
                    rows={2}
                    bad={refused?.about(name)}
                    value={words(draft[name])}
                    onChange={(e) => set({ [name]: e.currentTarget.value.split('\n') })}
                    onBlur={() => set({ [name]: lines(words(draft[name])) })}
                  />
                ))}
              </details>
            )}
          </fieldset>
        )}
        {fault && !refused?.faults.length && (
          <p className="note" role="alert">
            {fault.message}
          </p>
        )}
        <div className="bar still">
          {rule && may && (
            <button type="button" className="btn danger" disabled={remove.isPending} onClick={() => remove.mutate()}>
              {t('entries.remove')}
            </button>
          )}
          {draft && may && (
            <button type="submit" className="btn prime" disabled={save.isPending}>
              {t('entries.save')}
            </button>
          )}
          <button type="button" className="btn" onClick={close}>
            {t('members.form.cancel')}
          </button>
        </div>
      </form>
      {draft?.entry ? (
        <EntryTrial draft={draft} address={from} />
      ) : (
        <section className="sheet trial empty">
          <p>{t('entries.nothingYet')}</p>
        </section>
      )}
    </div>
  );
}

function Proposals({
  found,
  chosen,
  choose,
}: {
  found: Schemas['EntryProposal'][];
  chosen: Draft | undefined;
  choose: (draft: Draft) => void;
}) {
  const { t } = useTranslation();
  if (found.length === 0) {
    return (
      <p className="hint" role="status">
        {t('entries.noneFound')}
      </p>
    );
  }

  return (
    <fieldset className="proposals">
      <legend>{t('entries.found')}</legend>
      {found.map((one, at) => (
        <label className="opt" key={`${one.draft.behind ?? ''}${one.draft.entry}`}>
          <input
            type="radio"
            name="proposal"
            checked={chosen?.entry === one.draft.entry && (chosen?.behind ?? null) === (one.draft.behind ?? null)}
            onChange={() => choose(one.draft)}
          />
          <span>
            <code>{one.draft.entry}</code> {one.draft.behind && <code>{one.draft.behind}</code>}
          </span>
          <small>
            {t('entries.counts', { count: one.count, items: one.items })}
            {at === 0 && ` · ${t('entries.likeliest')}`}
            <br />“{one.example}”
          </small>
        </label>
      ))}
    </fieldset>
  );
}
