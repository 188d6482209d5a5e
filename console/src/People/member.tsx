import { useTranslation } from 'react-i18next';
import type { Schemas } from '../api/client';

export const statuses = ['active', 'invited', 'unverified', 'pending', 'suspended', 'closed'] as const;

/** What a member holds now, each fact once. */
export const heldNow = (member: Schemas['MemberView']) => [...new Set(member.grants.filter((g) => g.inForce).map((g) => g.fact))];

/** Where an account stands, by word and colour. */
export function MemberState({ status }: { status: string }) {
  const { t } = useTranslation();
  const look = status === 'active' ? '' : status === 'suspended' || status === 'closed' ? ' broken' : ' exempt';
  return <span className={`state${look}`}>{t(`members.statuses.${status}`, status)}</span>;
}
