import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { api, good, Refused, type Schemas } from '../api/client';
import { useMay } from '../People/me';

type Texts = Schemas['TextsView'];
type Text = Schemas['TextView'];

/** Texts to be said in the owner's own words: what is left empty is said as it is shown. Saved together. */
export function TextRows({ texts, rows, onSaved }: { texts: Texts; rows: Text[]; onSaved?: () => void }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const may = useMay('write');
  const [typed, setTyped] = useState<Record<string, string>>({});
  const { language } = texts.language;
  const save = useMutation({
    mutationFn: () =>
      good(
        api.PATCH('/api/v1/texts/{language}', {
          params: { path: { language } },
          body: { words: typed },
          headers: { 'If-Match': `"${texts.version}"` },
        }),
      ),
    onSuccess: (saved) => {
      setTyped({});
      queries.setQueryData(['texts', language], saved);
      void queries.invalidateQueries();
      onSaved?.();
    },
  });
  const bad = (key: string) => (save.error instanceof Refused ? save.error.about(`words[${key}]`) : undefined);
  const hasFaults = save.error instanceof Refused && save.error.faults.length > 0;
  return (
    <form
      className="texts"
      onSubmit={(e) => {
        e.preventDefault();
        save.mutate();
      }}
    >
      {save.error && !hasFaults && (
        <p className="note" role="alert">
          {save.error.message}
        </p>
      )}
      {rows.map((text) => (
        <Row
          key={text.key}
          text={text}
          language={language}
          value={typed[text.key] ?? text.own ?? ''}
          bad={bad(text.key)}
          readOnly={!may}
          onChange={(value) => {
            save.reset();
            setTyped(({ [text.key]: _, ...others }) => (value === (text.own ?? '') ? others : { ...others, [text.key]: value }));
          }}
        />
      ))}
      {may && rows.length > 0 && (
        <footer className="bar">
          <span role="status">{save.isSuccess && Object.keys(typed).length === 0 ? t('gate.saved') : ''}</span>
          <button type="submit" className="btn prime" disabled={save.isPending || Object.keys(typed).length === 0}>
            {t('pages.save', { count: Object.keys(typed).length })}
          </button>
        </footer>
      )}
    </form>
  );
}

function Row({
  text,
  language,
  value,
  bad,
  readOnly,
  onChange,
}: {
  text: Text;
  language: string;
  value: string;
  bad: string | undefined;
  readOnly: boolean;
  onChange: (value: string) => void;
}) {
  const { t } = useTranslation();
  const id = `text-${text.key}`;
  const said = {
    id,
    className: 'field',
    value,
    readOnly,
    lang: language,
    dir: 'auto' as const,
    placeholder: text.isMissing ? t('pages.notYet') : undefined,
    maxLength: text.longest,
    'aria-invalid': bad !== undefined,
    'aria-describedby': [`${id}-is`, bad && `${id}-bad`].filter(Boolean).join(' '),
  };
  return (
    <div className="text">
      <label htmlFor={id}>
        <code>{text.key}</code>
        {text.isMissing && <span className="state off">{t('pages.missing')}</span>}
      </label>
      <p id={`${id}-is`} lang={text.isOwners ? undefined : language} dir="auto">
        {text.original}
      </p>
      {text.hasLines ? (
        <textarea {...said} rows={3} onChange={(e) => onChange(e.currentTarget.value)} />
      ) : (
        <input {...said} autoComplete="off" onChange={(e) => onChange(e.currentTarget.value)} />
      )}
      {bad && (
        <p className="bad" id={`${id}-bad`}>
          {bad}
        </p>
      )}
    </div>
  );
}
