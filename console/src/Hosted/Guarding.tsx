import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { Link } from 'react-router';
import { api, good, type Schemas } from '../api/client';
import { AudiencePicker } from '../Gates/Pickers';
import { Fault } from './WrittenPages';

type Guard = Schemas['GuardingView'];
type Kind = 'inherits' | 'own' | 'open';
const kinds: Kind[] = ['inherits', 'own', 'open'];

/** What guards something, in a line. */
export function GuardedBy({ guarding }: { guarding: Guard }) {
  const { t } = useTranslation();
  if (guarding.kind === 'open' || (guarding.kind === 'inherits' && guarding.by.length === 0)) {
    return <>{t('written.openToAll')}</>;
  }

  return guarding.kind === 'own' ? <code>{guarding.own}</code> : <code>{guarding.by.map((by) => by.admits).join('; ')}</code>;
}

/** Whom a page lets in: as its section says, by a gate of its own, or everybody. */
export function Guarding({ page, guarding, may }: { page: string; guarding: Guard; may: boolean }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const [kind, setKind] = useState<Kind>(guarding.kind as Kind);
  const [audience, setAudience] = useState(guarding.own ?? 'signed-in');
  const save = useMutation({
    mutationFn: () => {
      const params = { params: { path: { key: page } } };
      return kind === 'inherits'
        ? good(api.DELETE('/api/v1/pages/{key}/gate', params))
        : good(api.PUT('/api/v1/pages/{key}/gate', { ...params, body: { audience: kind === 'own' ? audience : null } }));
    },
    onSuccess: () => queries.invalidateQueries(),
  });
  const changed = kind !== guarding.kind || (kind === 'own' && audience !== guarding.own);
  return (
    <section className="sheet">
      <h2>{t('written.who')}</h2>
      <Fault error={save.error} />
      <fieldset className="guards" disabled={!may}>
        <legend className="sr">{t('written.who')}</legend>
        {kinds.map((one) => (
          <label className="tick" key={one}>
            <input type="radio" name="guarding" checked={kind === one} onChange={() => setKind(one)} /> {t(`written.guards.${one}`)}
          </label>
        ))}
      </fieldset>
      {kind === 'inherits' && (
        <ul className="hint">
          {guarding.by.map((by) => (
            <li key={by.gate}>
              <Link to={`/gates/${by.gate}`}>{by.title}</Link>: <code>{by.admits}</code> ({by.from})
            </li>
          ))}
          {guarding.kind === 'inherits' && guarding.by.length === 0 && <li>{t('written.nothingAbove')}</li>}
        </ul>
      )}
      {kind === 'own' && <AudiencePicker audience={audience} set={setAudience} />}
      {may && changed && (
        <footer className="bar">
          <button type="button" className="btn prime" disabled={save.isPending} onClick={() => save.mutate()}>
            {t('written.saveGuard')}
          </button>
        </footer>
      )}
    </section>
  );
}
