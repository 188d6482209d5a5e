import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { api, good, Refused } from '../api/client';
import { useSettled } from '../frame/useSettled';
import { asking } from '../Pages/Glance';

const pause = 500;

type Draft = { title: string; description: string; text: string };

/** A page as somebody sees it before it is published; what is wrong with it, where it cannot be published. */
export function PageLook({ page, draft, jump }: { page: string; draft: Draft; jump: (line: number) => void }) {
  const { t } = useTranslation();
  const [viewpoint, look] = useState('guest');
  const [phone, setPhone] = useState(false);
  const [language, setLanguage] = useState('');
  const settled = useSettled(draft, pause);
  const viewpoints = useQuery({ queryKey: ['viewpoints'], queryFn: () => good(api.GET('/api/v1/viewpoints')) });
  const languages = useQuery({ queryKey: ['texts'], queryFn: () => good(api.GET('/api/v1/texts')) });
  const offered = languages.data?.items.filter((one) => one.isOffered || one.isSites) ?? [];
  const preview = useQuery({
    queryKey: ['page-preview', page, viewpoint, settled],
    queryFn: () =>
      good(
        api.POST('/api/v1/pages/{key}/preview', {
          params: { path: { key: page } },
          body: { title: settled.title, description: settled.description || null, text: settled.text, as: viewpoint },
        }),
      ),
    placeholderData: (before) => before,
    retry: false,
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 0,
  });
  const faults = preview.error instanceof Refused ? preview.error.faults : [];
  return (
    <section className="sheet preview page-look" aria-label={t('written.look')}>
      <div className="preview-head">
        <select className="field" aria-label={t('written.lookAs')} value={viewpoint} onChange={(e) => look(e.currentTarget.value)}>
          {(viewpoints.data ?? [{ key: 'guest', title: t('written.guest') }]).map((one) => (
            <option key={one.key} value={one.key}>
              {one.title}
            </option>
          ))}
        </select>
        {offered.length > 1 && (
          <select
            className="field"
            aria-label={t('written.lookIn')}
            value={language || offered.find((one) => one.isSites)?.language}
            onChange={(e) => setLanguage(e.currentTarget.value)}
          >
            {offered.map((one) => (
              <option key={one.language} value={one.language}>
                {one.name}
              </option>
            ))}
          </select>
        )}
        <label className="tick">
          <input type="checkbox" checked={phone} onChange={(e) => setPhone(e.currentTarget.checked)} /> {t('written.phone')}
        </label>
      </div>
      {preview.isError && (
        <div className="note" role="alert">
          {faults.length === 0 && <p>{preview.error.message}</p>}
          <ul>
            {faults.map((fault) => (
              <li key={`${fault.line} ${fault.message}`}>
                {fault.line ? (
                  <button type="button" className="link" onClick={() => jump(fault.line ?? 1)}>
                    {fault.message}
                  </button>
                ) : (
                  fault.message
                )}
              </li>
            ))}
          </ul>
        </div>
      )}
      {preview.data && (
        <iframe
          className={phone ? 'phone' : undefined}
          title={t('written.look')}
          src={language ? asking(preview.data.address, `language=${language}`) : preview.data.address}
        />
      )}
    </section>
  );
}
