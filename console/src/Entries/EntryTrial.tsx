import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { api, good, type Schemas } from '../api/client';
import { Field } from '../frame/Field';
import { useSettled } from '../frame/useSettled';
import type { Draft } from './TeachEntry';

/** What goes stands first. */
const order = ['goes', 'without-price', 'stays'];

/** How an entry is marked on the page that stands beside: by word and line, not by colour alone. */
const marks = (goes: string, price: string) => `<style>
html{zoom:.6}
[data-wary-entry]{outline:2px solid #b97c0e!important;outline-offset:2px;position:relative!important}
[data-wary-entry=goes]{outline:3px dashed #b3402f!important;opacity:.55}
[data-wary-entry=goes]::before{content:"${goes}"}[data-wary-entry=without-price]::before{content:"${price}"}
[data-wary-entry=goes]::before,[data-wary-entry=without-price]::before{position:absolute;right:0;top:0;z-index:9;padding:1px 7px;font:600 12px system-ui;
background:#b3402f;color:#fff}[data-wary-entry=without-price]::before{background:#7a5200}</style>`;

/** What a rule would do at an address, for any viewpoint: what goes, what stays, and the page itself. */
export function EntryTrial({ draft, address }: { draft: Draft; address: string }) {
  const { t } = useTranslation();
  const [as, setAs] = useState('guest');
  const settled = useSettled(JSON.stringify({ draft, address, as }), 400);
  const viewpoints = useQuery({ queryKey: ['viewpoints'], queryFn: () => good(api.GET('/api/v1/viewpoints')) });
  const tried = useQuery({
    queryKey: ['entries', 'try', settled],
    queryFn: () => good(api.POST('/api/v1/entries/try', { body: JSON.parse(settled) as Schemas['EntryTrial'] })),
    placeholderData: (before) => before,
    retry: false,
    enabled: address.startsWith('/'),
  });
  return (
    <section className="sheet trial" aria-label={t('entries.trial')}>
      <Field as="select" id="entry-as" label={t('entries.as')} value={as} onChange={(e) => setAs(e.currentTarget.value)}>
        {(viewpoints.data ?? [{ key: 'guest', title: t('entries.guest') }]).map((one) => (
          <option key={one.key} value={one.key}>
            {one.title}
          </option>
        ))}
      </Field>
      {tried.isError && (
        <p className="bad" role="alert">
          {tried.error.message}
        </p>
      )}
      {tried.isSuccess && !tried.isError && (
        <>
          <p role="status">
            <b>{t('entries.goes', { count: tried.data.goes })}</b>, {t('entries.stays', { count: tried.data.stays })}
          </p>
          {tried.data.page && (
            <iframe
              title={t('entries.page')}
              sandbox=""
              srcDoc={tried.data.page.replace('</head>', `${marks(t('entries.fates.goes'), t('entries.fates.without-price'))}</head>`)}
            />
          )}
          <ol className="seen">
            {tried.data.entries
              .toSorted((a, b) => order.indexOf(a.fate) - order.indexOf(b.fate))
              .map((one, at) => (
                <li key={at} className={one.fate}>
                  <b>{t(`entries.fates.${one.fate}`)}</b>
                  <span>{one.item ?? one.about ?? t('entries.unknown')}</span>
                  <small>{one.words}</small>
                </li>
              ))}
          </ol>
        </>
      )}
    </section>
  );
}
