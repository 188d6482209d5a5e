import { useMutation, useQueryClient } from '@tanstack/react-query';
import type { FormEvent } from 'react';
import { useTranslation } from 'react-i18next';
import { api, good, Refused } from '../api/client';
import { Dialog } from '../frame/Dialog';
import { Field } from '../frame/Field';

/** Adds one item by hand. */
export function AddItem({ close }: { close: () => void }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const add = useMutation({
    mutationFn: (form: FormData) => {
      const said = (name: string) => String(form.get(name) ?? '').trim();
      const many = (name: string) =>
        said(name)
          .split(',')
          .map((part) => part.trim())
          .filter(Boolean);
      return good(
        api.POST('/api/v1/items', {
          body: { id: said('id'), title: said('title'), parents: many('parents'), addresses: many('addresses') },
        }),
      );
    },
    onSuccess: async () => {
      await queries.invalidateQueries();
      close();
    },
  });
  const bad = (field: string) => (add.error instanceof Refused ? add.error.about(field) : undefined);
  const submit = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    add.mutate(new FormData(event.currentTarget));
  };
  return (
    <Dialog title={t('catalogue.add')} close={close}>
      <form onSubmit={submit}>
        <Field id="item-id" name="id" label={t('catalogue.key')} hint={t('catalogue.keyHint')} bad={bad('id')} />
        <Field id="item-title" name="title" label={t('catalogue.name')} bad={bad('title')} />
        <Field id="item-parents" name="parents" label={t('catalogue.parents')} hint={t('catalogue.parentsHint')} bad={bad('parents')} />
        <Field
          id="item-addresses"
          name="addresses"
          label={t('catalogue.addresses')}
          hint={t('catalogue.addressesHint')}
          bad={bad('addresses')}
        />
        {add.isError && !(add.error instanceof Refused && add.error.faults.length > 0) && <p className="bad">{add.error.message}</p>}
        <footer className="bar">
          <button type="button" className="btn" onClick={close}>
            {t('catalogue.cancel')}
          </button>
          <button type="submit" className="btn prime" disabled={add.isPending}>
            {t('catalogue.save')}
          </button>
        </footer>
      </form>
    </Dialog>
  );
}
