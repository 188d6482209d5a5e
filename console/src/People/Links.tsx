import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { api, good, type Schemas } from '../api/client';
import { moment } from '../frame/dates';
import { May } from '../frame/May';
import { Part } from './MemberPage';
import { Told } from './Told';

/** How somebody comes in: the links that they were sent, and what became of them; another one; a password made up. */
export function Links({ member }: { member: Schemas['MemberView'] }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const path = { params: { path: { member: member.id } } };
  const [told, setTold] = useState<Schemas['GeneratedPasswordView']>();
  const links = useQuery({ queryKey: ['links', member.id], queryFn: () => good(api.GET('/api/v1/members/{member}/links', path)) });
  const done = { onSettled: () => queries.invalidateQueries() };
  const send = useMutation({ mutationFn: () => good(api.POST('/api/v1/members/{member}/links', { ...path, body: {} })), ...done });
  const withdraw = useMutation({ mutationFn: () => good(api.DELETE('/api/v1/members/{member}/links', path)), ...done });
  const generate = useMutation({
    mutationFn: () => good(api.POST('/api/v1/members/{member}/password', path)),
    onSuccess: setTold,
    ...done,
  });
  const all = links.data?.items ?? [];
  const fault = send.error ?? withdraw.error ?? generate.error;
  const isOut = member.status === 'suspended' || member.status === 'closed' || member.status === 'pending';
  return (
    <Part title={t('member.comingIn')}>
      {fault && (
        <p className="bad" role="alert">
          {fault.message}
        </p>
      )}
      {links.isSuccess && all.length === 0 && <p className="hint">{t('member.noLinks')}</p>}
      <ul className="rows">
        {all.slice(0, 8).map((link) => (
          <li key={link.createdAt}>
            <div>
              <b>{t(`member.linkFor.${link.purpose}`)}</b>{' '}
              <span className={link.state === 'open' ? 'state' : 'state off'}>{t(`member.linkStates.${link.state}`)}</span>
              <p className="hint">
                {t('member.linkSent', { at: moment(link.createdAt), to: link.address })}
                {link.state === 'open' && ` · ${t('member.linkUntil', { at: moment(link.until) })}`}
              </p>
            </div>
          </li>
        ))}
      </ul>
      {!isOut && (
        <May scope="people">
          <div className="deeds">
            <button type="button" className="btn" disabled={send.isPending} onClick={() => send.mutate()}>
              {t(
                member.status === 'invited'
                  ? all.length > 0
                    ? 'member.inviteAgain'
                    : 'member.invite'
                  : member.status === 'unverified'
                    ? 'member.confirm'
                    : 'member.sendLink',
              )}
            </button>
            {all.some((link) => link.state === 'open') && (
              <button type="button" className="btn" disabled={withdraw.isPending} onClick={() => withdraw.mutate()}>
                {t('member.withdraw')}
              </button>
            )}
            <button type="button" className="btn" disabled={generate.isPending} onClick={() => generate.mutate()}>
              {t('member.generate')}
            </button>
          </div>
        </May>
      )}
      {told && <Told made={told} close={() => setTold(undefined)} />}
    </Part>
  );
}
