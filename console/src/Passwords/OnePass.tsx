import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { api, good, type Schemas } from '../api/client';
import { Dialog } from '../frame/Dialog';
import { moment } from '../frame/dates';
import { May } from '../frame/May';
import { EditPass } from './EditPass';
import { networksOf, usesOf } from './PassesPage';

type Pass = Schemas['PassView'];

/** One pass: how it stands, and what can be done with it. */
export function OnePass({
  pass,
  kinds,
  close,
  told,
}: {
  pass: Pass;
  kinds: Schemas['FactDefinitionView'][];
  close: () => void;
  told: (pass: Pass) => void;
}) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const [edits, setEdits] = useState(false);
  const path = { params: { path: { id: pass.id } } };
  const changed = () => queries.invalidateQueries({ queryKey: ['passes'] });
  const rotate = useMutation({
    mutationFn: (overlap: string) => good(api.POST('/api/v1/passes/{id}/rotate', { ...path, body: { overlap, send: false } })),
    onSuccess: async (made) => {
      await changed();
      close();
      told(made);
    },
  });
  const withdraw = useMutation({
    mutationFn: () => good(api.POST('/api/v1/passes/{id}/withdraw', path)),
    onSuccess: async () => {
      await changed();
      close();
    },
  });
  if (edits) {
    return <EditPass pass={pass} kinds={kinds} close={close} />;
  }

  const fault = rotate.error ?? withdraw.error;
  const facts: [string, string | null | undefined][] = [
    [t('passes.name'), pass.name],
    [t('passes.kind'), `${pass.kindTitle} (pass:${pass.kind})`],
    [t('passes.email'), pass.email],
    [t('passes.from'), pass.fromText],
    [t('passes.untilDay'), pass.untilText ?? t('passes.endless')],
    [t('passes.uses'), usesOf(pass)],
    [t('passes.networks'), networksOf(pass)],
    [t('passes.lastUsed'), pass.lastUsedAt ? moment(pass.lastUsedAt) : t('passes.never')],
    [t('passes.oldUntil'), pass.oldUntil && moment(pass.oldUntil)],
    [t('passes.order'), pass.order],
  ];
  return (
    <Dialog title={pass.holder} close={close}>
      <p>
        <span className={pass.standing === 'in-force' ? 'state' : 'state off'}>{t(`passes.standings.${pass.standing}`)}</span>
      </p>
      <dl className="facts">
        {facts
          .filter(([, value]) => value)
          .map(([name, value]) => (
            <div key={name}>
              <dt>{name}</dt>
              <dd>{value}</dd>
            </div>
          ))}
      </dl>
      {fault && (
        <p className="note" role="alert">
          {fault.message}
        </p>
      )}
      <div className="bar">
        {!pass.withdrawnAt && (
          <May scope="people">
            <button type="button" className="btn" onClick={() => setEdits(true)}>
              {t('passes.edit')}
            </button>
            <button
              type="button"
              className="btn"
              disabled={rotate.isPending}
              onClick={() => rotate.mutate('P2D')}
              title={t('passes.rotateHint')}
            >
              {t('passes.rotate')}
            </button>
            <button type="button" className="btn danger" disabled={withdraw.isPending} onClick={() => withdraw.mutate()}>
              {t('passes.withdraw')}
            </button>
          </May>
        )}
        <button type="button" className="btn prime" onClick={close}>
          {t('passes.close')}
        </button>
      </div>
    </Dialog>
  );
}
