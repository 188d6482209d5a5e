import { useQuery } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { useTranslation } from 'react-i18next';
import { api, good } from '../api/client';
import { useSettled } from '../frame/useSettled';

/** Members by all that they answered: one filter after the other. */
export function AnswerFilters({ values, choose }: { values: string[]; choose: (values: string[]) => void }) {
  const { t } = useTranslation();
  const [more, setMore] = useState(false);
  const shown = more || values.length === 0 ? [...values, ''] : values;
  return (
    <>
      {shown.map((value, at) => (
        <AnswerSelect
          key={`${at} ${value.split(/[:=<>]/)[0]}`}
          value={value}
          choose={(next) => {
            setMore(false);
            choose(shown.map((one, n) => (n === at ? next : one)));
          }}
        />
      ))}
      {values.length > 0 && !more && (
        <button type="button" className="link" onClick={() => setMore(true)}>
          {t('members.answerAnd')}
        </button>
      )}
    </>
  );
}

/** Takes what is looked for in names to the answers. */
export function SearchAnswers({ part, go }: { part: string; go: (answer: string) => void }) {
  const { t } = useTranslation();
  const fields = useQuery({ queryKey: ['fields'], queryFn: () => good(api.GET('/api/v1/fields')) });
  return part.trim() && fields.data?.items.length ? (
    <p className="hint">
      <button type="button" className="link" onClick={() => go(`*:${part.trim()}`)}>
        {t('members.answersToo', { part: part.trim() })}
      </button>
    </p>
  ) : null;
}

/** Members by what they answered: a field, and what was answered to it. Nothing where the site asks nothing. */
function AnswerSelect({ value, choose }: { value: string; choose: (value: string) => void }) {
  const { t } = useTranslation();
  const fields = useQuery({ queryKey: ['fields'], queryFn: () => good(api.GET('/api/v1/fields')) });
  const [, key = '', sign = '', text = ''] = /^([^:=<>]+)(:|=|>=|<=)?(.*)$/.exec(value) ?? [];
  const [typed, setTyped] = useState(text);
  const settled = useSettled(typed, 300);
  const field = fields.data?.items.find((one) => one.field.key === key)?.field;
  const isAny = key === '*';
  const isFree = isAny || (field !== undefined && !field.options?.length && field.kind !== 'yes-no' && field.kind !== 'consent');
  const options = field?.options?.length
    ? field.options.map((one) => ({ key: one.key ?? '', label: one.label ?? '' }))
    : field?.kind === 'yes-no' || field?.kind === 'consent'
      ? ['yes', 'no'].map((one) => ({ key: one, label: t(`forms.answers.${one}`) }))
      : undefined;
  useEffect(() => {
    if (key && isFree && settled !== text) {
      choose(settled.trim() ? `${key}:${settled.trim()}` : key);
    }
  }, [settled]);
  if (!fields.data?.items.length && !value) {
    return null;
  }

  return (
    <>
      <select
        className="field"
        aria-label={t('members.answered')}
        value={key}
        onChange={(e) => {
          setTyped('');
          choose(e.currentTarget.value);
        }}
      >
        <option value="">{t('members.anyAnswer')}</option>
        <option value="*">{t('members.anyField')}</option>
        {key && !isAny && !field && <option value={key}>{key}</option>}
        {fields.data?.items.map((one) => (
          <option key={one.field.key} value={one.field.key ?? ''}>
            {one.field.label}
          </option>
        ))}
      </select>
      {field && options && (
        <select
          className="field"
          aria-label={t('members.answer')}
          value={sign === '=' ? text : ''}
          onChange={(e) => choose(e.currentTarget.value ? `${key}=${e.currentTarget.value}` : key)}
        >
          <option value="">{t('members.answeredAtAll')}</option>
          {options.map((one) => (
            <option key={one.key} value={one.key}>
              {one.label}
            </option>
          ))}
        </select>
      )}
      {isFree && (
        <input
          type="search"
          className="field"
          aria-label={t('members.answer')}
          placeholder={t('members.answerPart')}
          value={typed}
          onChange={(e) => setTyped(e.currentTarget.value)}
        />
      )}
    </>
  );
}
