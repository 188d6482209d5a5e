import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { api, good, Refused } from '../api/client';
import { Dialog } from '../frame/Dialog';
import { DialogBar } from '../frame/DialogBar';
import { Field } from '../frame/Field';
import { freeKey } from '../frame/freeKey';
import { AudienceField } from '../People/AudienceField';
import { useMay } from '../People/me';
import type { Redirect } from './RedirectsPage';

export const occasions = [
  'sign-in',
  'first-sign-in',
  'sign-out',
  'registration',
  'confirmation',
  'approval',
  'password-set',
  'refusal',
  'unlock',
] as const;

/** Adds a redirect, changes one, removes one. */
export function EditRedirect({ redirect, taken, close }: { redirect: Redirect | undefined; taken: Redirect[]; close: () => void }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const may = useMay('write');
  const [draft, setDraft] = useState(redirect ?? { on: 'sign-in', audience: 'signed-in', to: '', insists: false });
  const done = async () => {
    await queries.invalidateQueries();
    close();
  };
  const save = useMutation({
    mutationFn: () =>
      good(
        api.PUT('/api/v1/redirects/{key}', {
          params: { path: { key: redirect?.key ?? freeKey(draft.on, taken) } },
          body: { on: draft.on, audience: draft.audience, to: draft.to, insists: draft.insists },
        }),
      ),
    onSuccess: done,
  });
  const remove = useMutation({
    mutationFn: () => good(api.DELETE('/api/v1/redirects/{key}', { params: { path: { key: redirect?.key ?? '' } } })),
    onSuccess: done,
  });
  const refused = save.error instanceof Refused ? save.error : undefined;
  const fault = save.error ?? remove.error;
  return (
    <Dialog title={t(redirect ? 'redirects.change' : 'redirects.add')} close={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          save.mutate();
        }}
      >
        {fault && !refused?.faults.length && (
          <p className="note" role="alert">
            {fault.message}
          </p>
        )}
        <fieldset className="bare" disabled={!may}>
          <Field
            as="select"
            id="redirect-on"
            label={t('redirects.on')}
            bad={refused?.about('on')}
            value={draft.on}
            onChange={(e) => setDraft({ ...draft, on: e.currentTarget.value })}
          >
            {occasions.map((on) => (
              <option key={on} value={on}>
                {t(`redirects.when.${on}`)}
              </option>
            ))}
          </Field>
          <AudienceField
            id="redirect-audience"
            label={t('redirects.who')}
            bad={refused?.about('audience')}
            value={draft.audience}
            set={(audience) => setDraft({ ...draft, audience })}
          />
          <Field
            id="redirect-to"
            label={t('redirects.to')}
            hint={t('redirects.toHint')}
            placeholder="/members"
            required
            bad={refused?.about('to')}
            value={draft.to}
            onChange={(e) => setDraft({ ...draft, to: e.currentTarget.value })}
          />
          <label className="opt">
            <input type="checkbox" checked={draft.insists} onChange={(e) => setDraft({ ...draft, insists: e.currentTarget.checked })} />
            <span>{t('redirects.insists')}</span>
            <small>{t('redirects.insistsHint')}</small>
          </label>
        </fieldset>
        <DialogBar
          go={may ? t('roles.save') : null}
          disabled={save.isPending}
          close={close}
          first={
            redirect &&
            may && (
              <button type="button" className="btn danger" disabled={remove.isPending} onClick={() => remove.mutate()}>
                {t('redirects.remove')}
              </button>
            )
          }
        />
      </form>
    </Dialog>
  );
}
