import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { api, good, Refused } from '../api/client';
import { putFile } from '../Files/putFile';
import { Dialog } from '../frame/Dialog';
import { DialogBar } from '../frame/DialogBar';
import { Field } from '../frame/Field';
import { type Show, useSaveShow } from './useShow';

const said = (text: string) => text.trim() || null;

/** Adds a show, or changes what is told of one. */
export function EditShow({ show, close, done }: { show?: Show; close: () => void; done: (show: Show) => void }) {
  const { t } = useTranslation();
  const items = useQuery({
    queryKey: ['items', 'show'],
    queryFn: () => good(api.GET('/api/v1/items', { params: { query: { kind: 'show', limit: 200 } } })),
    enabled: !show,
  });
  const [draft, setDraft] = useState({
    key: show?.key ?? '',
    by: show?.by ?? '',
    notes: show?.notes ?? '',
    language: show?.language ?? '',
  });
  const [picture, setPicture] = useState<File>();
  const [fault, setFault] = useState<Error>();
  const save = useSaveShow(done);
  const refused = (fault ?? save.error) instanceof Refused ? ((fault ?? save.error) as Refused) : undefined;
  const put = (field: keyof typeof draft) => (e: { currentTarget: { value: string } }) =>
    setDraft({ ...draft, [field]: e.currentTarget.value });
  const key = draft.key.replace(/^show:/, '').trim();
  const body = { by: said(draft.by), notes: said(draft.notes), language: said(draft.language), picture: show?.picture ?? null };
  const store = async () => {
    setFault(undefined);
    try {
      // A show has its folder once it is there.
      const there = picture && !show ? await save.mutateAsync({ key, version: 0, body }) : show;
      if (picture) {
        await putFile(`shows/${encodeURIComponent(key)}`, picture);
      }

      await save.mutateAsync({ key, version: Number(there?.version ?? 0), body: { ...body, picture: picture?.name ?? body.picture } });
    } catch (bad) {
      setFault(bad as Error);
    }
  };
  return (
    <Dialog title={t(show ? 'shows.change' : 'shows.add')} close={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          void store();
        }}
      >
        {fault && !refused?.faults.length && (
          <p className="note" role="alert">
            {fault.message}
          </p>
        )}
        {!show && (
          <>
            <Field
              id="show-item"
              label={t('shows.item')}
              hint={t('shows.itemHint')}
              required
              list="show-items"
              bad={refused?.about('key')}
              value={draft.key}
              onChange={put('key')}
            />
            <datalist id="show-items">
              {items.data?.items.map((item) => (
                <option key={item.id} value={item.id}>
                  {item.title}
                </option>
              ))}
            </datalist>
          </>
        )}
        <Field id="show-by" label={t('shows.by')} bad={refused?.about('by')} value={draft.by} onChange={put('by')} />
        <Field
          as="textarea"
          id="show-notes"
          rows={4}
          label={t('shows.notes')}
          bad={refused?.about('notes')}
          value={draft.notes}
          onChange={put('notes')}
        />
        <Field
          id="show-spoken"
          label={t('shows.spoken')}
          hint={t('shows.spokenHint')}
          bad={refused?.about('language')}
          value={draft.language}
          onChange={put('language')}
        />
        <Field
          type="file"
          id="show-picture"
          accept="image/png,image/jpeg,image/webp"
          label={t('shows.picture')}
          hint={show?.picture ? t('shows.pictureNow', { name: show.picture }) : t('shows.pictureHint')}
          bad={refused?.about('picture')}
          onChange={(e) => setPicture(e.currentTarget.files?.[0])}
        />
        <DialogBar go={t('roles.save')} disabled={save.isPending} close={close} />
      </form>
    </Dialog>
  );
}
