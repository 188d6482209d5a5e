import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { api, good, type Schemas } from '../api/client';
import { moment } from '../frame/dates';
import { Field } from '../frame/Field';
import { Part } from './MemberPage';

/** What staff noted of a member, who never reads it. */
export function Notes({ member }: { member: Schemas['MemberView'] }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const [text, setText] = useState('');
  const at = { path: { member: member.id } };
  const notes = useQuery({
    queryKey: ['notes', member.id],
    queryFn: () => good(api.GET('/api/v1/members/{member}/notes', { params: at })),
  });
  const add = useMutation({
    mutationFn: () => good(api.POST('/api/v1/members/{member}/notes', { params: at, body: { text } })),
    onSuccess: async () => {
      setText('');
      await queries.invalidateQueries();
    },
  });
  const drop = useMutation({
    mutationFn: (note: string) =>
      good(api.DELETE('/api/v1/members/{member}/notes/{note}', { params: { path: { member: member.id, note } } })),
    onSettled: () => queries.invalidateQueries(),
  });
  return (
    <Part title={t('member.notes')}>
      <ul className="rows">
        {notes.data?.items.map((note) => (
          <li key={note.id}>
            <div>
              <p className="said">{note.text}</p>
              <p className="hint">
                {note.by} · {moment(note.at)}
              </p>
            </div>
            <button type="button" className="btn" disabled={drop.isPending} onClick={() => drop.mutate(note.id)}>
              {t('member.dropNote')}
            </button>
          </li>
        ))}
      </ul>
      {drop.isError && <p className="bad">{drop.error.message}</p>}
      <form
        onSubmit={(e) => {
          e.preventDefault();
          add.mutate();
        }}
      >
        <Field
          as="textarea"
          id="note"
          label={t('member.note')}
          hint={t('member.noteHint')}
          bad={add.error?.message}
          value={text}
          onChange={(e) => setText(e.currentTarget.value)}
        />
        <div className="deeds">
          <button type="submit" className="btn" disabled={add.isPending || !text.trim()}>
            {t('member.noteGo')}
          </button>
        </div>
      </form>
    </Part>
  );
}
