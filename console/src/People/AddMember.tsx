import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { useNavigate } from 'react-router';
import { api, good, Refused, type Schemas } from '../api/client';
import { Dialog } from '../frame/Dialog';
import { DialogBar } from '../frame/DialogBar';
import { Field } from '../frame/Field';
import { Told } from './Told';

const ways = ['letter', 'generated', 'typed', 'none'] as const;
type Way = (typeof ways)[number];

/** Adds a member, and says how they come in: by a letter, with a password made up, with one that is typed, or not yet. */
export function AddMember({ close }: { close: () => void }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const go = useNavigate();
  const [draft, setDraft] = useState({ email: '', name: '', password: '' });
  const [way, setWay] = useState<Way>('letter');
  const [told, setTold] = useState<Schemas['GeneratedPasswordView']>();
  const add = useMutation({
    mutationFn: async () => {
      if (way === 'letter') {
        const invited = await good(
          api.POST('/api/v1/members/invitations', { body: { people: [`${draft.name.replaceAll(/[<>]/g, '')} <${draft.email}>`] } }),
        );
        const [one] = invited.items;
        if (!one?.invited) {
          throw new Error(one?.problem ?? t('state.failed'));
        }

        return { id: one.email, generated: undefined };
      }

      const member = await good(
        api.POST('/api/v1/members', {
          body: { email: draft.email, name: draft.name, ...(way === 'typed' ? { password: draft.password } : {}) },
        }),
      );
      const generated =
        way === 'generated'
          ? await good(api.POST('/api/v1/members/{member}/password', { params: { path: { member: member.id } } }))
          : undefined;
      return { id: member.id, generated };
    },
    onSuccess: async ({ id, generated }) => {
      await queries.invalidateQueries();
      if (generated) {
        setTold(generated);
      } else {
        go(`/members/${encodeURIComponent(id)}`);
      }
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
  if (told) {
    return <Told made={told} close={() => go(`/members/${told.member.id}`)} />;
  }

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
        <fieldset className="ways">
          <legend>{t('members.form.way')}</legend>
          {ways.map((one) => (
            <label key={one}>
              <input type="radio" name="way" checked={way === one} onChange={() => setWay(one)} /> {t(`members.form.ways.${one}`)}
            </label>
          ))}
        </fieldset>
        {way === 'typed' && (
          <Field {...field('password')} type="password" autoComplete="new-password" required hint={t('members.form.passwordHint')} />
        )}
        <DialogBar go={t(way === 'letter' ? 'members.form.invite' : 'members.form.go')} disabled={add.isPending} close={close} />
      </form>
    </Dialog>
  );
}
