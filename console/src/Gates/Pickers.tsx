import { useQuery } from '@tanstack/react-query';
import { useDeferredValue, useState } from 'react';
import { useTranslation } from 'react-i18next';
import { api, good } from '../api/client';
import { AudienceRows } from './AudienceRows';
import { Tick } from './Blank';
import { anyOf, rowsOf, termOf, toggled } from './draft';

/** Chooses items and address patterns. */
export function CoversPicker({ covers, set }: { covers: string[]; set: (covers: string[], title?: string) => void }) {
  const { t } = useTranslation();
  const [typed, setTyped] = useState('');
  const [path, setPath] = useState('');
  const search = useDeferredValue(typed);
  const found = useQuery({
    queryKey: ['items', 'find', search],
    queryFn: () => good(api.GET('/api/v1/items', { params: { query: { search, limit: 60 } } })),
    placeholderData: (old) => old,
  });
  const items = found.data?.items ?? [];
  return (
    <div>
      {covers.length > 0 && (
        <div className="tags">
          {covers.map((cover) => (
            <button type="button" key={cover} onClick={() => set(covers.filter((c) => c !== cover))}>
              {cover} ✕
            </button>
          ))}
        </div>
      )}
      <input
        className="field"
        value={typed}
        placeholder={t('pick.coversFind')}
        aria-label={t('pick.coversFind')}
        onChange={(e) => setTyped(e.currentTarget.value)}
        data-autofocus
      />
      <div className="scroll">
        {items.length === 0 && found.isSuccess && <p className="group">{t('pick.coversNone')}</p>}
        {items.map((item) => (
          <Tick
            key={item.id}
            words={item.title}
            hint={item.id}
            on={covers.includes(item.id)}
            set={(on) => set(on ? [...covers, item.id] : covers.filter((c) => c !== item.id), on ? item.title : undefined)}
          />
        ))}
      </div>
      <p className="group">{t('pick.paths')}</p>
      <form
        style={{ display: 'flex', gap: 6, padding: '2px 4px' }}
        onSubmit={(event) => {
          event.preventDefault();
          if (path.startsWith('/')) {
            set([...covers, `path:${path.trim()}`]);
            setPath('');
          }
        }}
      >
        <input
          className="field"
          value={path}
          placeholder="/members/**"
          aria-label={t('pick.paths')}
          onChange={(e) => setPath(e.currentTarget.value)}
        />
        <button type="submit" className="btn">
          {t('pick.addPath')}
        </button>
      </form>
      <p className="group" style={{ fontWeight: 400 }}>
        {t('pick.pathsHint')}
      </p>
    </div>
  );
}

/** Chooses whom a gate admits: ticks where any of a list is enough, rows where several things must hold at once. */
export function AudiencePicker({
  audience,
  rows,
  set,
}: {
  audience: string;
  rows?: string[][] | null | undefined;
  set: (audience: string) => void;
}) {
  const { t } = useTranslation();
  const [precise, setPrecise] = useState(false);
  const atoms = anyOf(audience);
  const kinds = [
    { kind: 'role', words: t('pick.roles'), query: useStandings('roles') },
    { kind: 'group', words: t('pick.groups'), query: useStandings('groups') },
    { kind: 'plan', words: t('pick.plans'), query: useStandings('plans') },
    { kind: 'pass', words: t('pick.passes'), query: useStandings('pass-kinds') },
  ];
  if (!atoms || precise) {
    const read = rowsOf(audience) ?? rows?.map((row) => row.map(termOf));
    return read ? <AudienceRows rows={read} set={set} /> : <p className="group">{t('pick.custom')}</p>;
  }

  const tick = (atom: string, words: string, hint?: string) => (
    <Tick key={atom} words={words} {...(hint ? { hint } : {})} on={atoms.includes(atom)} set={(on) => set(toggled(atoms, atom, on))} />
  );
  return (
    <fieldset>
      <legend>
        {t('pick.audience')} · {t('pick.anyOf')}
      </legend>
      <div className="scroll">
        {tick('signed-in', t('pick.signedIn'))}
        {tick('password', t('pick.password'), t('pick.passwordHint'))}
        {kinds.map(
          ({ kind, words, query }) =>
            (query.data?.items.length ?? 0) > 0 && (
              <div key={kind}>
                <p className="group">{words}</p>
                {query.data?.items.map((standing) => tick(`${kind}:${standing.key}`, standing.title))}
              </div>
            ),
        )}
        <p className="group"> </p>
        {tick('anyone', t('pick.anyone'))}
        {tick('nobody', t('pick.nobody'))}
      </div>
      <p className="end">
        <button type="button" className="btn" onClick={() => setPrecise(true)}>
          {t('rows.precise')}
        </button>
      </p>
    </fieldset>
  );
}

function useStandings(kind: 'roles' | 'groups' | 'plans' | 'pass-kinds') {
  return useQuery({ queryKey: ['standings', kind], queryFn: () => good(api.GET(`/api/v1/${kind}`)) });
}
