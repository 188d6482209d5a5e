import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { api, good, Refused } from '../api/client';
import { Dialog } from '../frame/Dialog';
import { DialogBar } from '../frame/DialogBar';
import { Field } from '../frame/Field';
import { kinds, type Plural, useFactList } from './RolesPage';

/** Adds a role, group or plan, like another where that is wanted. */
export function AddFact({
  plural,
  like = '',
  close,
  added,
}: {
  plural: Plural;
  like?: string;
  close: () => void;
  added: (key: string) => void;
}) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const kind = kinds.find((one) => one.plural === plural)?.kind ?? 'role';
  const all = useFactList(plural).data?.items.filter((fact) => !fact.builtIn) ?? [];
  const [draft, setDraft] = useState({ title: '', key: '', like });
  const add = useMutation({
    mutationFn: () =>
      good(
        api.POST(`/api/v1/${plural}`, {
          body: { title: draft.title, ...(draft.key ? { key: draft.key } : {}), ...(draft.like ? { like: draft.like } : {}) },
        }),
      ),
    onSuccess: async (fact) => {
      await queries.invalidateQueries();
      close();
      added(fact.key);
    },
  });
  const refused = add.error instanceof Refused ? add.error : undefined;
  return (
    <Dialog title={t(`roles.add.${kind}`)} close={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          add.mutate();
        }}
      >
        {add.isError && !refused?.faults.length && (
          <p className="note" role="alert">
            {add.error.message}
          </p>
        )}
        <Field
          id="fact-title"
          label={t('roles.name')}
          required
          bad={refused?.about('title')}
          value={draft.title}
          onChange={(e) => setDraft({ ...draft, title: e.currentTarget.value })}
        />
        <Field
          id="fact-key"
          label={t('roles.key')}
          hint={t('roles.keyHint')}
          bad={refused?.about('key')}
          value={draft.key}
          onChange={(e) => setDraft({ ...draft, key: e.currentTarget.value })}
        />
        <Field
          as="select"
          id="fact-like"
          label={t('roles.like')}
          hint={t('roles.likeHint')}
          bad={refused?.about('like')}
          value={draft.like}
          onChange={(e) => setDraft({ ...draft, like: e.currentTarget.value })}
        >
          <option value="">{t('roles.likeNone')}</option>
          {all.map((fact) => (
            <option key={fact.key} value={fact.key}>
              {fact.title}
            </option>
          ))}
        </Field>
        <DialogBar go={t('members.form.go')} disabled={add.isPending} close={close} />
      </form>
    </Dialog>
  );
}
