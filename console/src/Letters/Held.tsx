import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useTranslation } from 'react-i18next';
import { api, good, type Schemas } from '../api/client';
import { moment } from '../frame/dates';
import { May } from '../frame/May';

const marks = { good: '●', warn: '◐', bad: '○', unknown: '·' } as const;

/** Whether letters go out at all; holds them all, lets them go, and tries the mail server. */
export function Held({ outbox }: { outbox: Schemas['OutboxView'] }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const hold = useMutation({
    mutationFn: async (wanted: boolean) => {
      const settings = await good(api.GET('/api/v1/settings'));
      await good(
        api.PUT('/api/v1/settings', {
          headers: { 'If-Match': `"${settings.version}"` },
          body: { letters: { ...settings.letters, hold: wanted } },
        }),
      );
    },
    onSettled: () => queries.invalidateQueries(),
  });
  const test = useMutation({ mutationFn: () => good(api.POST('/api/v1/letters/server-test')) });
  return (
    <section className="sheet outbox" aria-label={t('letters.way')}>
      <div className="outbox-way">
        <p>
          {t(outbox.held ? 'letters.held' : outbox.sends ? 'letters.goes' : 'letters.noServer')}{' '}
          {outbox.waiting > 0 && t('letters.waiting', { count: outbox.waiting })}
          {outbox.reportsReadAt && <span className="hint"> {t('letters.reportsRead', { at: moment(outbox.reportsReadAt) })}</span>}
        </p>
        <May scope="write">
          <div className="deeds">
            <button
              type="button"
              className={outbox.held ? 'btn prime' : 'btn'}
              disabled={hold.isPending}
              onClick={() => hold.mutate(!outbox.held)}
            >
              {t(outbox.held ? 'letters.release' : 'letters.hold')}
            </button>
            <button type="button" className="btn" disabled={test.isPending} onClick={() => test.mutate()}>
              {t('letters.test')}
            </button>
          </div>
        </May>
      </div>
      {(hold.isError || test.isError) && (
        <p className="bad" role="alert">
          {(hold.error ?? test.error)?.message}
        </p>
      )}
      {test.isPending && (
        <p className="hint" role="status">
          {t('letters.testing')}
        </p>
      )}
      {test.data && (
        <ul className="steps" role="status">
          {test.data.steps.map((step) => (
            <li key={step.step} className={step.state}>
              <span aria-hidden="true">{marks[step.state as keyof typeof marks]}</span>
              <div>
                <b>{t(`letters.steps.${step.step}`)}</b> <em>{t(`letters.stepStates.${step.state}`)}</em>
                <p>{step.said}</p>
                {step.mend && <p className="hint">{step.mend}</p>}
              </div>
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}
