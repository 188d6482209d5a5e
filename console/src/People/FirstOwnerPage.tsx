import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import type { FormEvent } from 'react';
import { useTranslation } from 'react-i18next';
import { Navigate, useNavigate, useSearchParams } from 'react-router';
import { api, good, Refused } from '../api/client';
import { Field } from '../frame/Field';
import { Tongue } from '../frame/Tongue';
import { PasswordInput } from './PasswordInput';

/** Makes the first owner of a new service. */
export function FirstOwnerPage() {
  const { t } = useTranslation();
  const [search] = useSearchParams();
  const go = useNavigate();
  const queries = useQueryClient();
  const begin = useMutation({
    mutationFn: (form: FormData) => {
      const said = (name: string) => String(form.get(name) ?? '');
      return good(
        api.POST('/api/v1/first-owner', {
          body: { code: said('code'), name: said('owner'), email: said('email'), password: said('password') },
        }),
      );
    },
    onSuccess: async (me) => {
      queries.setQueryData(['me'], { needsOwner: false, siteName: '', me });
      await go('/set-up');
    },
  });
  // Whoever comes too late signs in; asked at once, while the answer that the page brought along is fresh.
  const begun = useQuery({ queryKey: ['me'], queryFn: () => good(api.GET('/api/v1/set-up')) });
  if (begun.data && !begun.data.needsOwner && !begin.isSuccess) {
    return <Navigate to="/" replace />;
  }

  const bad = (field: string) => (begin.error instanceof Refused ? begin.error.about(field) : undefined);
  const submit = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    begin.mutate(new FormData(event.currentTarget));
  };
  return (
    <div className="centre">
      <form className="panel" onSubmit={submit}>
        <p className="kicker">{t('brand')}</p>
        <h1>{t('first.title')}</h1>
        <p className="lead">{t('first.lead')}</p>
        <Field id="code" name="code" label={t('first.code')} defaultValue={search.get('code') ?? ''} required bad={bad('code')} />
        <Field id="owner" name="owner" required label={t('first.name')} autoComplete="name" bad={bad('name')} />
        <Field id="email" name="email" required label={t('first.email')} autoComplete="email" bad={bad('email')} />
        <PasswordInput id="password" label={t('first.password')} autoComplete="new-password" bad={bad('password')} />
        {begin.isError && !(begin.error instanceof Refused && begin.error.faults.length > 0) && (
          <p className="note" role="alert" style={{ margin: '14px 0 0' }}>
            {begin.error.message}
          </p>
        )}
        <button type="submit" className="btn prime" disabled={begin.isPending}>
          {t('first.go')}
        </button>
        <Tongue />
      </form>
    </div>
  );
}
