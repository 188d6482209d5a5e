import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useTranslation } from 'react-i18next';
import { api, good, type Schemas } from '../api/client';
import { nameOfLanguage } from '../frame/languages';

/** In which language a member is written to, and whether they get more than the letters that have to be. */
export function WrittenTo({ member }: { member: Schemas['MemberView'] }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const kinds = useQuery({ queryKey: ['letter-kinds'], queryFn: () => good(api.GET('/api/v1/letter-templates')) });
  const wish = useMutation({
    mutationFn: (body: Schemas['LetterWish']) =>
      good(api.PUT('/api/v1/members/{member}/letters', { params: { path: { member: member.id } }, body })),
    onSettled: () => queries.invalidateQueries(),
  });
  const languages = [
    ...new Set([
      ...(kinds.data?.items.flatMap((kind) => [...kind.own, ...kind.ours]) ?? []),
      ...(member.language ? [member.language] : []),
    ]),
  ].sort();
  return (
    <>
      <dt id="written-in">{t('member.writtenIn')}</dt>
      <dd>
        <select
          className="field"
          aria-labelledby="written-in"
          value={member.language ?? ''}
          disabled={wish.isPending}
          onChange={(e) => wish.mutate({ language: e.currentTarget.value })}
        >
          <option value="">{t('member.siteLanguage')}</option>
          {languages.map((tag) => (
            <option key={tag} value={tag}>
              {nameOfLanguage(tag)}
            </option>
          ))}
        </select>
      </dd>
      <dt>{t('member.news')}</dt>
      <dd>
        <label className="check">
          <input
            type="checkbox"
            checked={!member.unsubscribed}
            disabled={wish.isPending}
            onChange={(e) => wish.mutate({ unsubscribed: !e.currentTarget.checked })}
          />{' '}
          {t('member.newsWanted')}
        </label>
        {wish.isError && <p className="bad">{wish.error.message}</p>}
      </dd>
    </>
  );
}
