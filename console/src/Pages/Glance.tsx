import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { api, good } from '../api/client';

const themes = ['set', 'light', 'dark'] as const;
const widths = ['wide', 'phone'] as const;

/** A visitor's page, at the width of a desk or of a phone, as it is set, by day or by night. */
export function Glance({ src, title }: { src: string; title: string }) {
  const { t } = useTranslation();
  const [width, setWidth] = useState<(typeof widths)[number]>('wide');
  const [theme, setTheme] = useState<(typeof themes)[number]>('set');
  const address = theme === 'set' ? src : asking(src, `theme=${theme}`);
  return (
    <div className="glance">
      <div className="glance-bar">
        <Segments label={t('glance.width')} of={widths} value={width} set={setWidth} />
        <Segments label={t('glance.theme')} of={themes} value={theme} set={setTheme} />
      </div>
      <div className="pane">
        <iframe className={width} title={title} src={address} />
      </div>
    </div>
  );
}

type Choice = (typeof themes)[number] | (typeof widths)[number];

/** One of a few, all of them to be seen. */
function Segments<T extends Choice>({ label, of, value, set }: { label: string; of: readonly T[]; value: T; set: (one: T) => void }) {
  const { t } = useTranslation();
  return (
    <fieldset className="segments" aria-label={label}>
      {of.map((one) => (
        <button key={one} type="button" aria-pressed={value === one} onClick={() => set(one)}>
          {t(`glance.${one}`)}
        </button>
      ))}
    </fieldset>
  );
}

/** The visitor's pages that can be looked at. */
export function useShownPages() {
  const pages = useQuery({ queryKey: ['visitor-pages'], queryFn: () => good(api.GET('/api/v1/visitor-pages')) });
  return pages.data?.items.filter((page) => page.look) ?? [];
}

/** An address with more in its query. */
export function asking(address: string, query: string) {
  return `${address}${address.includes('?') ? '&' : '?'}${query}`;
}

/** Which of the visitor's pages is looked at. */
export function ChoosePage({ value, set }: { value: string; set: (key: string) => void }) {
  const { t } = useTranslation();
  return (
    <select className="field" aria-label={t('glance.page')} value={value} onChange={(e) => set(e.currentTarget.value)}>
      {useShownPages().map((page) => (
        <option key={page.key} value={page.key}>
          {page.title}
        </option>
      ))}
    </select>
  );
}
