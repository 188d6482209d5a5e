import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { Link } from 'react-router';
import { api, good, Refused, type Schemas } from '../api/client';
import { Field } from '../frame/Field';
import { useMay } from '../People/me';

const last = 1000;

/** Where a page leads when what it is for is done: the redirects of that occasion, and the one for everybody whom they leave. */
export function Leads({ on }: { on: string }) {
  const { t } = useTranslation();
  const redirects = useQuery({ queryKey: ['redirects'], queryFn: () => good(api.GET('/api/v1/redirects')) });
  const key = `after-${on}`;
  const all = redirects.data?.items.filter((one) => one.on === on) ?? [];
  const others = all.filter((one) => one.key !== key);
  const usual = all.find((one) => one.key === key);
  return (
    <section className="sheet">
      <h2>{t('pages.leads')}</h2>
      {others.length > 0 && (
        <ul className="bare leads">
          {others.map((one) => (
            <li key={one.key}>
              <u>{one.audience}</u> {t(one.insists ? 'redirects.always' : 'redirects.lands')} <b>{one.to}</b>
            </li>
          ))}
        </ul>
      )}
      {redirects.data && <Usual key={usual?.to ?? ''} on={on} name={key} usual={usual} />}
      <p className="hint">
        <Link to="/redirects">{t('pages.leadsAll')}</Link>
      </p>
    </section>
  );
}

function Usual({ on, name, usual }: { on: string; name: string; usual: Schemas['RedirectView'] | undefined }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const may = useMay('write');
  const [to, setTo] = useState(usual?.to ?? '');
  const save = useMutation({
    mutationFn: async () => {
      const path = { key: name };
      if (!to.trim()) {
        await good(api.DELETE('/api/v1/redirects/{key}', { params: { path } }));
        return;
      }

      await good(
        api.PUT('/api/v1/redirects/{key}', {
          params: { path },
          body: { on, audience: 'anyone', to: to.trim(), position: last, insists: usual?.insists ?? false },
        }),
      );
    },
    onSuccess: () => queries.invalidateQueries({ queryKey: ['redirects'] }),
  });
  const refused = save.error instanceof Refused ? save.error : undefined;
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        save.mutate();
      }}
    >
      <Field
        id="page-leads"
        label={t('pages.leadsUsual')}
        hint={t('pages.leadsHint')}
        value={to}
        readOnly={!may}
        bad={save.error ? (refused?.about('to') ?? save.error.message) : undefined}
        onChange={(e) => setTo(e.currentTarget.value)}
      />
      {may && (
        <footer className="bar">
          <span role="status" />
          <button type="submit" className="btn prime" disabled={save.isPending || to === (usual?.to ?? '')}>
            {t('pages.saveStanding')}
          </button>
        </footer>
      )}
    </form>
  );
}
