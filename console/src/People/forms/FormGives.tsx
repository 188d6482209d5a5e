import { useQuery } from '@tanstack/react-query';
import { useTranslation } from 'react-i18next';
import { api, good, type Refused } from '../../api/client';
import { Field } from '../../frame/Field';
import { ConditionEditor } from './ConditionEditor';
import { type FieldDraft, type FormDraft, type FormGrant, replaced, without } from './draft';

const staff = ['role:owner', 'role:editor', 'role:support'];

/** What a form gives by its answers, each as a sentence, and who comes in without staff. */
export function FormGives({
  draft,
  fields,
  refused,
  set,
}: {
  draft: FormDraft;
  fields: FieldDraft[];
  refused: Refused | undefined;
  set: (change: Partial<FormDraft>) => void;
}) {
  const { t } = useTranslation();
  const facts = useQuery({
    queryKey: ['facts-to-give'],
    queryFn: async () => {
      const [roles, groups, plans] = await Promise.all([
        good(api.GET('/api/v1/roles')),
        good(api.GET('/api/v1/groups')),
        good(api.GET('/api/v1/plans')),
      ]);
      const named = { role: roles.items, group: groups.items, plan: plans.items };
      return Object.entries(named).flatMap(([kind, all]) => all.map((one) => ({ fact: `${kind}:${one.key}`, title: one.title })));
    },
  });
  const placed = (draft.sections ?? []).flatMap((section) => (section.fields ?? []).map((one) => one.field));
  const asked = fields.filter((one) => placed.includes(one.key ?? ''));
  const grants = draft.grants ?? [];
  const put = (next: FormGrant[]) => set({ grants: next.length > 0 ? next : null });
  const options = (facts.data ?? []).filter((one) => !staff.includes(one.fact));
  const approves = draft.approves ?? {};
  const lines = (all: readonly string[] | null | undefined) => (all ?? []).join('\n');
  const listOf = (text: string) => text.split(/[\s,;]+/).filter(Boolean);
  return (
    <>
      {grants.map((grant, at) => (
        <fieldset key={`${grant.grant}-${at}`} className="gives-row">
          <legend className="sr">{t('forms.gives.one')}</legend>
          <p className="sentence">
            {t('forms.gives.who')}{' '}
            <select
              className="field"
              aria-label={t('forms.gives.what')}
              value={grant.grant ?? ''}
              onChange={(e) => put(replaced(grants, at, { ...grant, grant: e.currentTarget.value }))}
            >
              {!options.some((one) => one.fact === grant.grant) && <option value={grant.grant ?? ''}>{grant.grant || '…'}</option>}
              {options.map((one) => (
                <option key={one.fact} value={one.fact}>
                  {one.title} ({one.fact})
                </option>
              ))}
            </select>{' '}
            {t('forms.gives.for')}{' '}
            <input
              className="field days"
              type="number"
              min={1}
              aria-label={t('forms.gives.days')}
              placeholder="∞"
              value={grant.days ?? ''}
              onChange={(e) => put(replaced(grants, at, { ...grant, days: e.currentTarget.value ? Number(e.currentTarget.value) : null }))}
            />{' '}
            {t('forms.gives.daysWord')}{' '}
            <select
              className="field"
              aria-label={t('forms.gives.after')}
              value={String(grant.afterApproval)}
              onChange={(e) => put(replaced(grants, at, { ...grant, afterApproval: e.currentTarget.value === 'true' }))}
            >
              <option value="false">{t('forms.gives.now')}</option>
              <option value="true">{t('forms.gives.later')}</option>
            </select>
            <button type="button" className="btn" aria-label={t('forms.gives.drop')} onClick={() => put(without(grants, at))}>
              ✕
            </button>
          </p>
          {refused?.about(`grants[${at}].grant`) && <p className="bad">{refused.about(`grants[${at}].grant`)}</p>}
          <ConditionEditor
            id={`gives-${at}`}
            condition={grant.when}
            fields={asked}
            set={(when) => put(replaced(grants, at, { ...grant, when: when ?? null }))}
          />
        </fieldset>
      ))}
      <button type="button" className="link" onClick={() => put([...grants, { grant: options[0]?.fact ?? '', afterApproval: false }])}>
        {t('forms.gives.add')}
      </button>
      <details open={draft.approves != null || undefined}>
        <summary>{t('forms.approves.title')}</summary>
        <p className="hint">{t('forms.approves.lead')}</p>
        <div className="pair">
          <Field
            as="textarea"
            id="approves-domains"
            label={t('forms.approves.domains')}
            placeholder="hillcrest.example"
            rows={2}
            bad={refused?.about('approves.domains')}
            defaultValue={lines(approves.domains)}
            onChange={(e) => set({ approves: { ...approves, domains: listOf(e.currentTarget.value) } })}
          />
          <Field
            as="textarea"
            id="approves-addresses"
            label={t('forms.approves.addresses')}
            rows={2}
            bad={refused?.about('approves.addresses')}
            defaultValue={lines(approves.addresses)}
            onChange={(e) => set({ approves: { ...approves, addresses: listOf(e.currentTarget.value) } })}
          />
        </div>
        <ConditionEditor
          id="approves-when"
          condition={approves.when}
          fields={asked}
          set={(when) =>
            set({ approves: when || approves.domains?.length || approves.addresses?.length ? { ...approves, when: when ?? null } : null })
          }
        />
      </details>
    </>
  );
}
