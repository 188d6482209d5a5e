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
  const address = theme === 'set' ? src : `${src}${src.includes('?') ? '&' : '?'}theme=${theme}`;
  return (
    <div className="glance">
      <div className="glance-bar">
        <fieldset className="segments" aria-label={t('glance.width')}>
          {widths.map((one) => (
            <button key={one} type="button" aria-pressed={width === one} onClick={() => setWidth(one)}>
              {t(`glance.${one}`)}
            </button>
          ))}
        </fieldset>
        <fieldset className="segments" aria-label={t('glance.theme')}>
          {themes.map((one) => (
            <button key={one} type="button" aria-pressed={theme === one} onClick={() => setTheme(one)}>
              {t(`glance.${one}`)}
            </button>
          ))}
        </fieldset>
      </div>
      <div className="pane">
        <iframe className={width} title={title} src={address} />
      </div>
    </div>
  );
}

/** Which of the visitor's pages is looked at. */
export function ChoosePage({ value, set }: { value: string; set: (look: string) => void }) {
  const { t } = useTranslation();
  const pages = useQuery({ queryKey: ['visitor-pages'], queryFn: () => good(api.GET('/api/v1/visitor-pages')) });
  const shown = pages.data?.items.filter((page) => page.look) ?? [];
  return (
    <select className="field" aria-label={t('glance.page')} value={value} onChange={(e) => set(e.currentTarget.value)}>
      {shown.map((page) => (
        <option key={page.key} value={page.key === 'sign-in' ? '' : (page.look ?? '')}>
          {page.title}
        </option>
      ))}
    </select>
  );
}
