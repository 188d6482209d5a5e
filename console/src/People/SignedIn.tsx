import { useQuery } from '@tanstack/react-query';
import { Navigate, Outlet } from 'react-router';
import { api, good } from '../api/client';
import { Failed, Loading } from '../frame/Page';
import { MeContext } from './me';
import { SignInPage } from './SignInPage';

/** Lets only those through who are signed in; asks the others. */
export function SignedIn() {
  const begun = useQuery({ queryKey: ['me'], queryFn: () => good(api.GET('/api/v1/set-up')) });
  if (begun.isError) {
    return <Failed fault={begun.error} again={() => void begun.refetch()} />;
  }

  if (!begun.data) {
    return <Loading lines={3} />;
  }

  if (!begun.data.me) {
    return begun.data.needsOwner ? <Navigate to="/first-owner" /> : <SignInPage site={begun.data.siteName} />;
  }

  return (
    <MeContext value={begun.data.me}>
      <Outlet />
    </MeContext>
  );
}
