import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import type { Schemas } from '../api/client';
import { Bulk } from './Bulk';

export type Filter = Omit<Schemas['MemberFilter'], 'sort'>;
export type Whom = { members: string[] } | { filter: Filter };
export const acts = ['give', 'end', 'suspend', 'reinstate', 'sign-out', 'invite', 'tell'] as const;
export type Act = (typeof acts)[number];

/** What can be done with those who are chosen. */
export function BulkBar({
  whom,
  count,
  everybody,
  none,
}: {
  whom: Whom;
  count: number | undefined;
  everybody: (() => void) | undefined;
  none: () => void;
}) {
  const { t } = useTranslation();
  const [act, setAct] = useState<Act>();
  return (
    <section className="bulk" aria-label={t('bulk.do')}>
      <b>{count === undefined ? t('bulk.chosenAll') : t('bulk.chosen', { count })}</b>
      {everybody && (
        <button type="button" className="btn" onClick={everybody}>
          {t('bulk.everybody')}
        </button>
      )}
      <button type="button" className="btn" onClick={none}>
        {t('bulk.none')}
      </button>
      <span />
      {acts.map((one) => (
        <button type="button" className="btn" key={one} onClick={() => setAct(one)}>
          {t(`bulk.acts.${one}`)}
        </button>
      ))}
      {act && <Bulk act={act} whom={whom} close={() => setAct(undefined)} />}
    </section>
  );
}
