import { Modal } from '@mantine/core';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import type { FormEvent } from 'react';
import { useTranslation } from 'react-i18next';
import { api, good, Refused } from '../api/client';

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
          body: { id: said('id'), title: said('title'), parents: many('parents'), addresses: many('addresses'), line: null },
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
  const field = (id: string, label: string, hint: string) => (
    <>
      <label className="name" htmlFor={`item-${id}`}>
        {label}
      </label>
      <input id={`item-${id}`} name={id} className="field" aria-describedby={`item-${id}-hint`} aria-invalid={bad(id) !== undefined} />
      <p className={bad(id) ? 'bad' : 'hint'} id={`item-${id}-hint`}>
        {bad(id) ?? hint}
      </p>
    </>
  );
  return (
    <Modal opened onClose={close} title={t('catalogue.add')} centered>
      <form onSubmit={submit}>
        {field('id', t('catalogue.key'), t('catalogue.keyHint'))}
        {field('title', t('catalogue.name'), '')}
        {field('parents', t('catalogue.parents'), t('catalogue.parentsHint'))}
        {field('addresses', t('catalogue.addresses'), t('catalogue.addressesHint'))}
        {add.isError && !(add.error instanceof Refused && add.error.faults.length > 0) && <p className="bad">{add.error.message}</p>}
        <div className="tools" style={{ justifyContent: 'flex-end', marginTop: 14 }}>
          <button type="button" className="btn" onClick={close}>
            {t('catalogue.cancel')}
          </button>
          <button type="submit" className="btn prime" disabled={add.isPending}>
            {t('catalogue.save')}
          </button>
        </div>
      </form>
    </Modal>
  );
}
