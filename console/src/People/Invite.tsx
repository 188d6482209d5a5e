import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { api, good, Refused } from '../api/client';
import { Dialog } from '../frame/Dialog';
import { DialogBar } from '../frame/DialogBar';
import { Field } from '../frame/Field';

/** Invites several at once: an address a line, with what they are to hold, until when, and words of one's own. */
export function Invite({ close }: { close: () => void }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const forms = useQuery({ queryKey: ['forms'], queryFn: () => good(api.GET('/api/v1/forms')) });
  const [draft, setDraft] = useState({ people: '', until: '', words: '', form: '' });
  const [facts, setFacts] = useState<string[]>([]);
  const known = useQuery({
    queryKey: ['facts', 'all'],
    queryFn: async () => {
      const [roles, groups, plans] = await Promise.all([
        good(api.GET('/api/v1/roles')),
        good(api.GET('/api/v1/groups')),
        good(api.GET('/api/v1/plans')),
      ]);
      return [
        ...roles.items
          .filter((one) => !['owner', 'editor', 'support'].includes(one.key))
          .map((one) => ({ ...one, fact: `role:${one.key}` })),
        ...groups.items.filter((one) => !one.rule).map((one) => ({ ...one, fact: `group:${one.key}` })),
        ...plans.items.map((one) => ({ ...one, fact: `plan:${one.key}` })),
      ];
    },
  });
  const of = (kind: string) => facts.filter((fact) => fact.startsWith(`${kind}:`)).map((fact) => fact.slice(kind.length + 1));
  const invite = useMutation({
    mutationFn: () =>
      good(
        api.POST('/api/v1/members/invitations', {
          body: {
            people: draft.people.split(/[\n;]+/).filter((line) => line.trim()),
            roles: of('role'),
            groups: of('group'),
            plans: of('plan'),
            ...(draft.until ? { until: draft.until } : {}),
            ...(draft.form ? { form: draft.form } : {}),
            ...(draft.words.trim() ? { words: draft.words } : {}),
          },
        }),
      ),
    onSuccess: () => queries.invalidateQueries(),
  });
  const refused = invite.error instanceof Refused ? invite.error : undefined;
  const field = (name: keyof typeof draft) => ({
    id: `invite-${name}`,
    label: t(`invite.${name}`),
    value: draft[name],
    bad: refused?.about(name),
    onChange: (e: { currentTarget: { value: string } }) => setDraft({ ...draft, [name]: e.currentTarget.value }),
  });
  const missed = invite.data?.items.filter((one) => !one.invited) ?? [];
  if (invite.data) {
    return (
      <Dialog title={t('invite.title')} close={close}>
        <p role="status">{t('invite.done', { count: invite.data.items.length - missed.length })}</p>
        {missed.length > 0 && (
          <ul className="rows">
            {missed.map((one) => (
              <li key={one.email}>
                <div>
                  <b>{one.email}</b>
                  <p className="bad">{one.problem}</p>
                </div>
              </li>
            ))}
          </ul>
        )}
        <footer className="bar">
          <button type="button" className="btn prime" onClick={close}>
            {t('invite.close')}
          </button>
        </footer>
      </Dialog>
    );
  }

  return (
    <Dialog title={t('invite.title')} close={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          invite.mutate();
        }}
      >
        {invite.isError && !refused?.faults.length && (
          <p className="note" role="alert">
            {invite.error.message}
          </p>
        )}
        <Field
          {...field('people')}
          as="textarea"
          rows={4}
          required
          hint={t('invite.peopleHint')}
          placeholder="Ada Quill <ada@quill.example>"
        />
        <fieldset className="ways facts-to-give">
          <legend>{t('invite.facts')}</legend>
          {known.data?.map((one) => (
            <label key={one.fact}>
              <input
                type="checkbox"
                checked={facts.includes(one.fact)}
                onChange={() => setFacts(facts.includes(one.fact) ? facts.filter((fact) => fact !== one.fact) : [...facts, one.fact])}
              />{' '}
              {one.title} <code>{one.fact}</code>
            </label>
          ))}
        </fieldset>
        {facts.length > 0 && <Field {...field('until')} type="date" hint={t('invite.untilHint')} />}
        {forms.data && forms.data.items.length > 0 && (
          <Field {...field('form')} as="select" hint={t('invite.formHint')}>
            <option value="">{t('invite.noForm')}</option>
            {forms.data.items.map(({ form }) => (
              <option key={form.key} value={form.key ?? ''}>
                {form.title}
              </option>
            ))}
          </Field>
        )}
        <Field {...field('words')} as="textarea" rows={3} hint={t('invite.wordsHint')} />
        <DialogBar go={t('invite.go')} disabled={invite.isPending} close={close} />
      </form>
    </Dialog>
  );
}
