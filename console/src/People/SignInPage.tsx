import { useMutation, useQueryClient } from '@tanstack/react-query';
import type { FormEvent } from 'react';
import { useTranslation } from 'react-i18next';
import { api, good } from '../api/client';
import { Field } from '../frame/Field';
import { Tongue } from '../frame/Tongue';
import { PasswordInput } from './PasswordInput';

/** Asks who wants into the console. */
export function SignInPage({ site }: { site: string }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const signIn = useMutation({
    mutationFn: (form: FormData) =>
      good(api.POST('/api/v1/sign-in', { body: { name: String(form.get('name')), password: String(form.get('password')) } })),
    onSuccess: (me) => queries.setQueryData(['me'], { needsOwner: false, siteName: site, me }),
  });
  const submit = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    signIn.mutate(new FormData(event.currentTarget));
  };
  return (
    <div className="centre">
      <form className="panel" onSubmit={submit}>
        <p className="kicker">{t('brand')}</p>
        <h1>{t('signIn.title')}</h1>
        <p className="lead">{t('signIn.lead', { site })}</p>
        <Field id="name" name="name" label={t('signIn.name')} autoComplete="username" autoCapitalize="none" required autoFocus />
        <PasswordInput id="password" label={t('signIn.password')} autoComplete="current-password" />
        {signIn.isError && (
          <p className="note" role="alert" style={{ margin: '14px 0 0' }}>
            {signIn.error.message}
          </p>
        )}
        <button type="submit" className="btn prime" disabled={signIn.isPending}>
          {t('signIn.go')}
        </button>
        <Tongue />
      </form>
    </div>
  );
}
