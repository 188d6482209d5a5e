import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { useNavigate } from 'react-router';
import { api, good, Refused } from '../api/client';
import { Dialog } from '../frame/Dialog';
import { DialogBar } from '../frame/DialogBar';
import { Field } from '../frame/Field';

/** Adds a member: invited without a password, active with one. */
export function AddMember({ close }: { close: () => void }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const go = useNavigate();
  const [draft, setDraft] = useState({ email: '', name: '', password: '' });
  const add = useMutation({
    mutationFn: () =>
      good(
        api.POST('/api/v1/members', {
          body: { email: draft.email, name: draft.name, ...(draft.password ? { password: draft.password } : {}) },
        }),
      ),
    onSuccess: async (member) => {
      await queries.invalidateQueries();
      go(`/members/${member.id}`);
    },
  });
  const refused = add.error instanceof Refused ? add.error : undefined;
  const field = (name: 'email' | 'name' | 'password') => ({
    id: `add-${name}`,
    label: t(`members.form.${name}`),
    value: draft[name],
    bad: refused?.about(name),
    onChange: (e: { currentTarget: { value: string } }) => setDraft({ ...draft, [name]: e.currentTarget.value }),
  });
  return (
    <Dialog title={t('members.add')} close={close}>
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
        <Field {...field('email')} type="email" required />
        <Field {...field('name')} required />
        <Field {...field('password')} type="password" autoComplete="new-password" hint={t('members.form.passwordHint')} />
        <DialogBar go={t('members.form.go')} disabled={add.isPending} close={close} />
      </form>
    </Dialog>
  );
}
