import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { useNavigate } from 'react-router';
import { api, good, Refused, type Schemas } from '../api/client';
import { Dialog } from '../frame/Dialog';
import { DialogBar } from '../frame/DialogBar';
import { day, moment } from '../frame/dates';
import { Field } from '../frame/Field';
import { Part } from './MemberPage';
import { useMe } from './me';
import { MemberState } from './member';
import { WrittenTo } from './WrittenTo';

type Act = 'suspended' | 'closed' | 'erase';

/** Where the account stands, how it came to be so, and what can become of it. */
export function Account({ member }: { member: Schemas['MemberView'] }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const me = useMe();
  const [act, setAct] = useState<Act>();
  const back = useMutation({
    mutationFn: () =>
      good(api.PUT('/api/v1/members/{member}/status', { params: { path: { member: member.id } }, body: { status: 'active' } })),
    onSuccess: () => queries.invalidateQueries(),
  });
  const out = member.status === 'suspended' || member.status === 'closed';
  return (
    <Part title={t('member.account')}>
      <dl className="facts">
        <dt>{t('member.stands')}</dt>
        <dd>
          <MemberState status={member.status} />{' '}
          {member.cause && <span className="hint">{t('member.cause', { at: moment(member.cause.at), by: member.cause.by })}</span>}
        </dd>
        {member.cause?.words && (
          <>
            <dt>{t('member.told')}</dt>
            <dd className="said">{member.cause.words}</dd>
          </>
        )}
        <dt>{t('members.joined')}</dt>
        <dd>{day(member.createdAt)}</dd>
        <dt>{t('members.seen')}</dt>
        <dd>{member.seenAt ? moment(member.seenAt) : t('members.never')}</dd>
        <KnownAs member={member} />
        <WrittenTo member={member} />
      </dl>
      {back.isError && <p className="bad">{back.error.message}</p>}
      <div className="deeds">
        {out ? (
          <button type="button" className="btn prime" disabled={back.isPending} onClick={() => back.mutate()}>
            {t('member.letBack')}
          </button>
        ) : (
          <button type="button" className="btn" onClick={() => setAct('suspended')}>
            {t('member.suspend')}
          </button>
        )}
        {member.status !== 'closed' && (
          <button type="button" className="btn" onClick={() => setAct('closed')}>
            {t('member.end')}
          </button>
        )}
        {me.isOwner && (
          <button type="button" className="btn danger" onClick={() => setAct('erase')}>
            {t('member.erase')}
          </button>
        )}
      </div>
      {act === 'erase' && <Erase member={member} close={() => setAct(undefined)} />}
      {act && act !== 'erase' && <KeepOut member={member} status={act} close={() => setAct(undefined)} />}
    </Part>
  );
}

/** The names by which other programs know them; nothing where none does. */
function KnownAs({ member }: { member: Schemas['MemberView'] }) {
  const { t } = useTranslation();
  const keys = useQuery({
    queryKey: ['outside-keys', member.id],
    queryFn: () => good(api.GET('/api/v1/members/{member}/outside-keys', { params: { path: { member: member.id } } })),
  });
  return keys.data?.length ? (
    <>
      <dt>{t('member.knownAs')}</dt>
      <dd>{keys.data.map((key) => t('member.knownIn', { key: key.key, program: key.source })).join(', ')}</dd>
    </>
  ) : null;
}

function KeepOut({ member, status, close }: { member: Schemas['MemberView']; status: 'suspended' | 'closed'; close: () => void }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const [words, setWords] = useState('');
  const keepOut = useMutation({
    mutationFn: () =>
      good(
        api.PUT('/api/v1/members/{member}/status', {
          params: { path: { member: member.id } },
          body: { status, ...(words.trim() ? { words } : {}) },
        }),
      ),
    onSuccess: async () => {
      await queries.invalidateQueries();
      close();
    },
  });
  const refused = keepOut.error instanceof Refused ? keepOut.error : undefined;
  return (
    <Dialog title={t(`member.ask.${status}`, { name: member.name })} close={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          keepOut.mutate();
        }}
      >
        <p>{t(`member.asks.${status}`)}</p>
        {keepOut.isError && !refused?.about('words') && (
          <p className="note" role="alert">
            {keepOut.error.message}
          </p>
        )}
        <Field
          as="textarea"
          id="words"
          label={t('member.words')}
          hint={t('member.wordsHint')}
          bad={refused?.about('words')}
          value={words}
          onChange={(e) => setWords(e.currentTarget.value)}
        />
        <DialogBar go={t(status === 'closed' ? 'member.endGo' : 'member.suspendGo')} disabled={keepOut.isPending} close={close} />
      </form>
    </Dialog>
  );
}

function Erase({ member, close }: { member: Schemas['MemberView']; close: () => void }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const go = useNavigate();
  const [typed, setTyped] = useState('');
  const [tell, setTell] = useState(false);
  const erase = useMutation({
    mutationFn: () => good(api.DELETE('/api/v1/members/{member}', { params: { path: { member: member.id }, query: { tell } } })),
    onSuccess: async () => {
      go('/members');
      await queries.invalidateQueries({ queryKey: ['members'] });
    },
  });
  return (
    <Dialog title={t('member.ask.erase', { name: member.name })} close={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          erase.mutate();
        }}
      >
        <p>{t('member.asks.erase')}</p>
        {erase.isError && (
          <p className="note" role="alert">
            {erase.error.message}
          </p>
        )}
        <Field
          id="erase"
          label={t('member.eraseType', { email: member.email })}
          value={typed}
          onChange={(e) => setTyped(e.currentTarget.value)}
        />
        <label className="check">
          <input type="checkbox" checked={tell} onChange={(e) => setTell(e.currentTarget.checked)} /> {t('member.eraseTell')}
        </label>
        <DialogBar go={t('member.eraseGo')} disabled={typed.trim() !== member.email || erase.isPending} danger close={close} />
      </form>
    </Dialog>
  );
}
