import { useQuery } from '@tanstack/react-query';
import { Navigate, Outlet } from 'react-router';
import { api, good, Refused } from '../api/client';
import { Failed, Loading } from '../frame/Page';
import { MeContext } from './me';
import { SignInPage } from './SignInPage';

/** Lets only those through who are signed in; asks the others. */
export function SignedIn() {
  const me = useQuery({ queryKey: ['me'], queryFn: () => good(api.GET('/api/v1/me')) });
  const setUp = useQuery({ queryKey: ['set-up'], queryFn: () => good(api.GET('/api/v1/set-up')), enabled: me.isError });
  if (me.data) {
    return (
      <MeContext value={me.data}>
        <Outlet />
      </MeContext>
    );
  }

  if (me.isError && !(me.error instanceof Refused && [401, 403].includes(me.error.status))) {
    return <Failed fault={me.error} again={() => void me.refetch()} />;
  }

  if (me.isPending || setUp.isPending) {
    return <Loading lines={3} />;
  }

  return setUp.data?.needsOwner ? <Navigate to="/first-owner" /> : <SignInPage site={setUp.data?.siteName ?? ''} />;
}
