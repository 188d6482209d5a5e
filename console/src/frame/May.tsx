import type { ReactNode } from 'react';
import { useTranslation } from 'react-i18next';
import { useMay } from '../People/me';

/** Shows what only those need who may use it. */
export function May({ scope, children }: { scope: 'write' | 'people' | 'tokens'; children: ReactNode }) {
  return useMay(scope) ? children : null;
}

/** A page whose controls only some may use: the others read it, and are told so. */
export function ReadOnlyUnless({ scope, children }: { scope: 'write' | 'people' | 'tokens'; children: ReactNode }) {
  const { t } = useTranslation();
  return useMay(scope) ? (
    children
  ) : (
    <>
      <p className="mayread">{t('state.mayRead')}</p>
      <fieldset className="bare" disabled>
        {children}
      </fieldset>
    </>
  );
}
