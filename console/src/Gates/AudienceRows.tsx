import { useQuery } from '@tanstack/react-query';
import { Fragment, useState } from 'react';
import { useTranslation } from 'react-i18next';
import { api, good } from '../api/client';
import { audienceOf, type Term } from './draft';

const plain = ['signed-in', 'guest', 'password', 'crawler', 'anyone', 'nobody'] as const;
const typed = ['bought', 'member', 'network'] as const;

/** Edits any audience: rows of which any admits, and within a row what must hold at once. */
export function AudienceRows({ rows, set }: { rows: Term[][]; set: (audience: string) => void }) {
  const { t } = useTranslation();
  const change = (next: Term[][]) => set(audienceOf(next));
  const inRow = (at: number, row: Term[]) => change(rows.map((old, n) => (n === at ? row : old)));
  return (
    <fieldset className="rows">
      <legend>{t('rows.legend')}</legend>
      {rows.map((row, at) => (
        <Fragment key={at}>
          {at > 0 && <p className="or">{t('rows.or')}</p>}
          <fieldset className="row" aria-label={t('rows.row', { number: at + 1 })}>
            {row.map((term, n) => (
              <Fragment key={term.atom + n}>
                {n > 0 && <i>{t('rows.and')}</i>}
                <TermChip
                  term={term}
                  flip={() =>
                    inRow(
                      at,
                      row.map((old, m) => (m === n ? { ...old, not: !old.not } : old)),
                    )
                  }
                  drop={() =>
                    inRow(
                      at,
                      row.filter((_, m) => m !== n),
                    )
                  }
                />
              </Fragment>
            ))}
            <AddTerm label={t('rows.addAnd')} add={(atom) => inRow(at, [...row, { not: false, atom }])} />
          </fieldset>
        </Fragment>
      ))}
      <p className="or">{t('rows.or')}</p>
      <div className="row">
        <AddTerm
          label={t('rows.addOr')}
          add={(atom) => change([...rows.filter((row) => row[0]?.atom !== 'nobody'), [{ not: false, atom }]])}
        />
      </div>
    </fieldset>
  );
}

function TermChip({ term, flip, drop }: { term: Term; flip: () => void; drop: () => void }) {
  const { t } = useTranslation();
  const words = useWords()(term.atom);
  return (
    <span className="term">
      <button type="button" aria-pressed={term.not} onClick={flip} title={t('rows.flip')}>
        {term.not ? t('rows.not') : t('rows.is')}
      </button>
      <b>{words}</b>
      <button type="button" aria-label={t('rows.drop', { words })} onClick={drop}>
        ✕
      </button>
    </span>
  );
}

function AddTerm({ label, add }: { label: string; add: (atom: string) => void }) {
  const { t } = useTranslation();
  const [kind, setKind] = useState<string | null>(null);
  const [key, setKey] = useState('');
  const groups = useGroups();
  if (kind) {
    return (
      <form
        className="typed"
        onSubmit={(event) => {
          event.preventDefault();
          if (key.trim()) {
            add(`${kind}:${key.trim()}`);
            setKind(null);
            setKey('');
          }
        }}
      >
        <input
          className="field"
          // biome-ignore lint/a11y/noAutofocus: it appears because its kind was just chosen
          autoFocus
          aria-label={t(`rows.${kind}`)}
          placeholder={t(`rows.${kind}Hint`)}
          value={key}
          onChange={(e) => setKey(e.currentTarget.value)}
        />
        <button type="submit" className="btn">
          {t('pick.addPath')}
        </button>
      </form>
    );
  }

  return (
    <select
      className="field"
      aria-label={label}
      value=""
      onChange={(e) => {
        const chosen = e.currentTarget.value;
        if (typed.some((one) => one === chosen)) {
          setKind(chosen);
        } else {
          add(chosen);
        }
      }}
    >
      <option value="">{label}</option>
      {plain.map((atom) => (
        <option key={atom} value={atom}>
          {t(`rows.plain.${atom}`)}
        </option>
      ))}
      {groups.map(
        (group) =>
          group.entries.length > 0 && (
            <optgroup key={group.kind} label={group.words}>
              {group.entries.map((entry) => (
                <option key={entry.key} value={`${group.kind}:${entry.key}`}>
                  {entry.title}
                </option>
              ))}
            </optgroup>
          ),
      )}
      <optgroup label={t('rows.more')}>
        {typed.map((one) => (
          <option key={one} value={one}>
            {t(`rows.${one}`)}
          </option>
        ))}
      </optgroup>
    </select>
  );
}

function useGroups() {
  const { t } = useTranslation();
  const roles = useQuery({ queryKey: ['standings', 'roles'], queryFn: () => good(api.GET('/api/v1/roles')) });
  const groups = useQuery({ queryKey: ['standings', 'groups'], queryFn: () => good(api.GET('/api/v1/groups')) });
  const plans = useQuery({ queryKey: ['standings', 'plans'], queryFn: () => good(api.GET('/api/v1/plans')) });
  const passes = useQuery({ queryKey: ['standings', 'pass-kinds'], queryFn: () => good(api.GET('/api/v1/pass-kinds')) });
  return [
    { kind: 'role', words: t('pick.roles'), entries: roles.data?.items ?? [] },
    { kind: 'group', words: t('pick.groups'), entries: groups.data?.items ?? [] },
    { kind: 'plan', words: t('pick.plans'), entries: plans.data?.items ?? [] },
    { kind: 'pass', words: t('pick.passes'), entries: passes.data?.items ?? [] },
  ];
}

function useWords() {
  const { t } = useTranslation();
  const groups = useGroups();
  return (atom: string) => {
    const [kind, key] = atom.split(/:(.*)/s);
    if (key === undefined) {
      return t(`rows.plain.${atom}`, atom);
    }

    const title = groups.find((group) => group.kind === kind)?.entries.find((entry) => entry.key === key)?.title;
    return title ?? `${t(`rows.${kind}`, kind ?? '')} ${key}`;
  };
}
