import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { api, good } from '../api/client';
import { Field } from '../frame/Field';
import { useSettled } from '../frame/useSettled';

type Draft = { subject: string; html: string; text: string };
const widths = ['desk', 'phone', 'plain'] as const;

/** The letter as its reader gets it: at a desk, on a phone, or as plain text; for made-up values or for a member. */
export function Preview({
  path,
  draft,
  member,
  setMember,
}: {
  path: { kind: string; language: string };
  draft: Draft;
  member: string;
  setMember: (member: string) => void;
}) {
  const { t } = useTranslation();
  const [width, setWidth] = useState<(typeof widths)[number]>('desk');
  const settled = useSettled(draft, 400);
  const whose = useSettled(member, 600);
  const shown = useQuery({
    queryKey: ['letter-preview', path, settled, whose],
    queryFn: () =>
      good(
        api.POST('/api/v1/letter-templates/{kind}/{language}/preview', {
          params: { path },
          body: { ...settled, ...(whose ? { member: whose } : {}) },
        }),
      ),
    placeholderData: keepPreviousData,
    retry: false,
  });
  return (
    <section className="sheet preview" aria-label={t('words.preview')}>
      <div className="preview-head">
        <Field
          id="preview-member"
          label={t('words.for')}
          placeholder={t('words.forNobody')}
          value={member}
          onChange={(e) => setMember(e.currentTarget.value.trim())}
        />
        <fieldset className="widths">
          <legend>{t('words.as')}</legend>
          {widths.map((one) => (
            <label key={one}>
              <input type="radio" name="width" checked={width === one} onChange={() => setWidth(one)} /> {t(`words.widths.${one}`)}
            </label>
          ))}
        </fieldset>
      </div>
      {shown.isError && (
        <p className="bad" role="status">
          {shown.error.message}
        </p>
      )}
      {shown.data && (
        <div className={shown.isError ? 'shown stale' : 'shown'}>
          <p className="subject">
            <span>{t('words.subject')}</span> <b>{shown.data.subject}</b>
          </p>
          {width === 'plain' || !shown.data.html ? (
            <pre>{shown.data.text}</pre>
          ) : (
            <iframe key={shown.data.html} title={t('words.preview')} sandbox="" className={width} srcDoc={shown.data.html} />
          )}
        </div>
      )}
    </section>
  );
}
