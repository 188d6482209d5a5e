import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { api, good, Refused } from '../api/client';
import { putFile } from '../Files/putFile';
import { Dialog } from '../frame/Dialog';
import { DialogBar } from '../frame/DialogBar';
import { Field } from '../frame/Field';
import { draftOf, type Episode, type Show, told, useSaveShow } from './useShow';

const said = (text: string) => text.trim() || null;

/** Adds an episode to a show, changes one, takes one out. */
export function EditEpisode({ show, episode, close }: { show: Show; episode?: Episode; close: () => void }) {
  const { t } = useTranslation();
  const taken = new Set(show.episodes.map((one) => one.item));
  const items = useQuery({
    queryKey: ['items', 'episode', show.key],
    queryFn: () => good(api.GET('/api/v1/items', { params: { query: { kind: 'episode', beneath: `show:${show.key}`, limit: 1000 } } })),
    enabled: !episode,
  });
  const [draft, setDraft] = useState({
    item: episode?.item ?? '',
    at: episode?.day ?? '',
    notes: episode?.notes ?? '',
    length: episode?.length ?? '',
  });
  const [file, setFile] = useState<File>();
  const [fault, setFault] = useState<Error>();
  const [busy, setBusy] = useState(false);
  const save = useSaveShow(close);
  const others = show.episodes.filter((one) => one.item !== episode?.item).map(draftOf);
  const refused = fault instanceof Refused ? fault : undefined;
  const bad = (field: string) => refused?.about(`episodes[${others.length}].${field}`);
  const known = refused?.about('path') ?? ['item', 'file', 'at', 'notes', 'length'].map(bad).find(Boolean);
  const put = (field: keyof typeof draft) => (e: { currentTarget: { value: string } }) =>
    setDraft({ ...draft, [field]: e.currentTarget.value });
  const store = async (drop = false) => {
    setFault(undefined);
    setBusy(true);
    try {
      if (file && !drop) {
        await putFile(`shows/${encodeURIComponent(show.key)}`, file);
      }

      const made = {
        item: draft.item,
        file: file?.name ?? episode?.file ?? null,
        at: said(draft.at),
        notes: said(draft.notes),
        length: said(draft.length),
      };
      await save.mutateAsync({
        key: show.key,
        version: Number(show.version),
        body: { ...told(show), episodes: drop ? others : [...others, made] },
      });
    } catch (wrong) {
      setFault(wrong as Error);
    } finally {
      setBusy(false);
    }
  };
  const free = items.data?.items.filter((item) => !taken.has(item.id)) ?? [];
  return (
    <Dialog title={episode ? episode.title : t('shows.addEpisode')} close={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          void store();
        }}
      >
        {fault && !known && (
          <p className="note" role="alert">
            {fault.message}
          </p>
        )}
        {!episode && (
          <Field
            as="select"
            id="episode-item"
            label={t('shows.episode')}
            hint={items.isSuccess && free.length === 0 ? t('shows.noEpisode', { show: `show:${show.key}` }) : t('shows.episodeHint')}
            required
            bad={bad('item')}
            value={draft.item}
            onChange={put('item')}
          >
            <option value="">{t('shows.choose')}</option>
            {free.map((item) => (
              <option key={item.id} value={item.id}>
                {item.title}
              </option>
            ))}
          </Field>
        )}
        <Field
          type="file"
          id="episode-file"
          accept="audio/*,video/mp4,video/webm,.m4a,.opus"
          label={t('shows.file')}
          hint={episode ? t('shows.fileNow', { name: episode.file }) : t('shows.fileHint')}
          required={!episode}
          bad={bad('file') ?? refused?.about('path')}
          onChange={(e) => setFile(e.currentTarget.files?.[0])}
        />
        <Field
          type={draft.at.length > 10 ? 'text' : 'date'}
          id="episode-at"
          label={t('shows.at')}
          hint={t('shows.atHint')}
          bad={bad('at')}
          value={draft.at}
          onChange={put('at')}
        />
        <Field
          as="textarea"
          id="episode-notes"
          rows={4}
          label={t('shows.notes')}
          bad={bad('notes')}
          value={draft.notes}
          onChange={put('notes')}
        />
        <Field
          id="episode-length"
          label={t('shows.length')}
          hint={t('shows.lengthHint')}
          bad={bad('length')}
          value={draft.length}
          onChange={put('length')}
        />
        <DialogBar
          go={t(busy && file ? 'folders.putting' : 'roles.save')}
          disabled={busy}
          close={close}
          first={
            episode && (
              <button type="button" className="btn danger" disabled={busy} onClick={() => void store(true)}>
                {t('shows.takeOut')}
              </button>
            )
          }
        />
      </form>
    </Dialog>
  );
}
