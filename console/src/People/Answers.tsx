import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { api, good, Refused, type Schemas } from '../api/client';
import { Dialog } from '../frame/Dialog';
import { Field } from '../frame/Field';
import { May } from '../frame/May';
import { AnswerList } from './forms/AnswerList';
import { Part } from './MemberPage';

/** What a member answered, in forms and since; staff change it. */
export function Answers({ member }: { member: Schemas['MemberView'] }) {
  const { t } = useTranslation();
  const [edit, setEdit] = useState(false);
  const fields = useQuery({ queryKey: ['fields'], queryFn: () => good(api.GET('/api/v1/fields')) });
  const answers = useQuery({
    queryKey: ['answers', member.id],
    queryFn: () => good(api.GET('/api/v1/members/{member}/answers', { params: { path: { member: member.id } } })),
  });
  const all = answers.data?.items ?? [];
  if (all.length === 0 && (fields.data?.items.length ?? 0) === 0) {
    return null;
  }

  return (
    <Part
      title={t('answers.title')}
      tools={
        <May scope="people">
          <button type="button" className="btn" onClick={() => setEdit(true)}>
            {t('answers.change')}
          </button>
        </May>
      }
    >
      {all.length === 0 && <p className="hint">{t('answers.none')}</p>}
      <AnswerList member={member.id} answers={all} />
      {edit && fields.data && <Edit member={member} fields={fields.data.items} answers={all} close={() => setEdit(false)} />}
    </Part>
  );
}

function Edit({
  member,
  fields,
  answers,
  close,
}: {
  member: Schemas['MemberView'];
  fields: Schemas['FieldView'][];
  answers: Schemas['AnswerView'][];
  close: () => void;
}) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const [typed, setTyped] = useState<{ [field: string]: string[] }>({});
  const save = useMutation({
    mutationFn: () =>
      good(api.PUT('/api/v1/members/{member}/answers', { params: { path: { member: member.id } }, body: { answers: typed } })),
    onSuccess: async () => {
      await queries.invalidateQueries();
      close();
    },
  });
  const refused = save.error instanceof Refused ? save.error : undefined;
  return (
    <Dialog title={t('answers.change')} close={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          save.mutate();
        }}
      >
        {save.error && !refused?.faults.length && (
          <p className="note" role="alert">
            {save.error.message}
          </p>
        )}
        {fields
          .filter(({ field }) => field.kind !== 'file')
          .map(({ field }) => {
            const key = field.key ?? '';
            return (
              <One
                key={key}
                field={field}
                bad={refused?.about(`answers.${key}`)}
                values={typed[key] ?? answers.find((one) => one.field === key)?.values ?? []}
                set={(values) => setTyped({ ...typed, [key]: values })}
              />
            );
          })}
        <div className="bar">
          <button type="submit" className="btn prime" disabled={save.isPending}>
            {t('roles.save')}
          </button>
          <button type="button" className="btn" onClick={close}>
            {t('members.form.cancel')}
          </button>
        </div>
      </form>
    </Dialog>
  );
}

function One({
  field,
  bad,
  values,
  set,
}: {
  field: Schemas['FieldDraft'];
  bad: string | undefined;
  values: string[];
  set: (values: string[]) => void;
}) {
  const { t } = useTranslation();
  const id = `answer-${field.key}`;
  const about = { id, label: field.label ?? '', hint: field.help ?? undefined, bad };
  const choices =
    field.kind === 'yes-no'
      ? [
          { key: 'yes', label: t('forms.yes') },
          { key: 'no', label: t('forms.no') },
        ]
      : field.kind === 'consent'
        ? [{ key: 'yes', label: t('forms.yes') }]
        : (field.options ?? []);
  if (field.kind === 'several-of') {
    return (
      <fieldset className="bare">
        <legend className="name">{field.label}</legend>
        {choices.map((one) => (
          <label key={one.key} className="opt">
            <input
              type="checkbox"
              checked={values.includes(one.key ?? '')}
              onChange={(e) => set(e.currentTarget.checked ? [...values, one.key ?? ''] : values.filter((value) => value !== one.key))}
            />
            <span>{one.label}</span>
          </label>
        ))}
        {bad && <p className="bad">{bad}</p>}
      </fieldset>
    );
  }

  if (choices.length > 0) {
    return (
      <Field as="select" {...about} value={values[0] ?? ''} onChange={(e) => set(e.currentTarget.value ? [e.currentTarget.value] : [])}>
        <option value="">{t('answers.nothing')}</option>
        {choices.map((one) => (
          <option key={one.key} value={one.key ?? ''}>
            {one.label}
          </option>
        ))}
      </Field>
    );
  }

  const change = (text: string) => set(text === '' ? [] : [text]);
  return field.kind === 'long-text' || field.kind === 'address' ? (
    <Field
      as="textarea"
      {...about}
      hint={field.kind === 'address' ? t('answers.address') : about.hint}
      rows={4}
      value={values[0] ?? ''}
      onChange={(e) => change(e.currentTarget.value)}
    />
  ) : (
    <Field
      {...about}
      type={field.kind === 'date' ? 'date' : 'text'}
      value={values[0] ?? ''}
      onChange={(e) => change(e.currentTarget.value)}
    />
  );
}
