import { useMutation, useQueryClient } from '@tanstack/react-query';
import { api, good, type Schemas } from '../api/client';

export type Show = Schemas['ShowView'];
export type Episode = Schemas['EpisodeView'];
export type EpisodeDraft = Schemas['EpisodeDraft'];

/** The draft that says what an episode says. */
export const draftOf = (one: Episode): EpisodeDraft => ({
  item: one.item,
  file: one.file,
  at: one.at,
  notes: one.notes,
  length: one.length,
});

/** What is told of a show, apart from its episodes. */
export const told = (show: Show) => ({ by: show.by, notes: show.notes, language: show.language, picture: show.picture });

/** Stores a show as it was seen, and lets every page know. */
export function useSaveShow(done: (show: Show) => void) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: ({ key, version, body }: { key: string; version: number; body: Schemas['ShowDraft'] }) =>
      good(api.PUT('/api/v1/shows/{key}', { params: { path: { key } }, headers: { 'If-Match': `"${version}"` }, body })),
    onSuccess: async (show) => {
      await queries.invalidateQueries();
      done(show);
    },
  });
}
