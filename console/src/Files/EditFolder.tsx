import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { api, good, Refused, type Schemas } from '../api/client';
import { Dialog } from '../frame/Dialog';
import { DialogBar } from '../frame/DialogBar';
import { Field } from '../frame/Field';
import { freeKey } from '../frame/freeKey';
import { LengthField } from '../People/LengthField';

type Area = Schemas['AreaView'];
const said = (text: string) => text.trim() || null;

/** Adds a folder to download from, or changes one. Its address stays the same by it. */
export function EditFolder({ area, taken, close, done }: { area?: Area; taken: Area[]; close: () => void; done: (area: Area) => void }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const [draft, setDraft] = useState({
    item: area?.item ?? 'download:',
    title: area?.title ?? '',
    folder: area?.folder ?? '',
    opens: area?.opens ?? 'gate',
    every: area?.every ?? 'P1M',
    overlap: area?.overlap ?? 'P1D',
  });
  const key = area?.key ?? freeKey(draft.item.split(':').pop() ?? '', taken, 'folder');
  const save = useMutation({
    mutationFn: () =>
      good(
        api.PUT('/api/v1/areas/{key}', {
          params: { path: { key } },
          headers: { 'If-Match': `"${area?.version ?? 0}"` },
          body: {
            item: draft.item,
            title: said(draft.title),
            folder: said(draft.folder),
            opens: draft.opens,
            every: said(draft.every),
            overlap: draft.every ? said(draft.overlap) : null,
          },
        }),
      ),
    onSuccess: async (put) => {
      await queries.invalidateQueries();
      done(put);
    },
  });
  const refused = save.error instanceof Refused ? save.error : undefined;
  const put = (field: keyof typeof draft) => (e: { currentTarget: { value: string } }) =>
    setDraft({ ...draft, [field]: e.currentTarget.value });
  return (
    <Dialog title={t(area ? 'folders.change' : 'folders.add')} close={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          save.mutate();
        }}
      >
        {save.error && !refused?.faults.length && (
          <p className="note" role="alert">
            {save.error.message}
          </p>
        )}
        <Field
          id="folder-item"
          label={t('folders.item')}
          hint={t('folders.itemHint')}
          required
          bad={refused?.about('item') ?? refused?.about('key')}
          value={draft.item}
          onChange={put('item')}
        />
        <Field
          id="folder-title"
          label={t('folders.called')}
          hint={t('folders.calledHint')}
          bad={refused?.about('title')}
          value={draft.title}
          onChange={put('title')}
        />
        <Field
          as="select"
          id="folder-opens"
          label={t('folders.who')}
          bad={refused?.about('opens')}
          value={draft.opens}
          onChange={put('opens')}
        >
          {(['gate', 'address'] as const).map((way) => (
            <option key={way} value={way}>
              {t(`folders.whos.${way}`)}
            </option>
          ))}
        </Field>
        <p className="hint">{t(`folders.whoHint.${draft.opens}`)}</p>
        <LengthField brief bad={refused?.about('every')} value={draft.every} set={(every) => setDraft({ ...draft, every })} />
        <p className="hint">{t('folders.everyHint')}</p>
        {draft.every && (
          <Field
            as="select"
            id="folder-overlap"
            label={t('folders.overlap')}
            bad={refused?.about('overlap')}
            value={draft.overlap}
            onChange={put('overlap')}
          >
            {[...new Set(['PT0S', 'PT12H', 'P1D', 'P3D', 'P7D', draft.overlap])].map((length) => (
              <option key={length} value={length}>
                {t(`folders.overlaps.${length}`, { defaultValue: length })}
              </option>
            ))}
          </Field>
        )}
        <Field
          id="folder-folder"
          label={t('folders.folder')}
          hint={t('folders.folderHint', { key })}
          bad={refused?.about('folder')}
          value={draft.folder}
          onChange={put('folder')}
        />
        <DialogBar go={t('roles.save')} disabled={save.isPending} close={close} />
      </form>
    </Dialog>
  );
}
