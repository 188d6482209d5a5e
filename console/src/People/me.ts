import { createContext, useContext } from 'react';
import type { Schemas } from '../api/client';

export type Me = Schemas['MeView'];

export const MeContext = createContext<Me>({ name: '', email: '', isOwner: false, right: '', scopes: [] });

/** Who is signed in. */
export const useMe = () => useContext(MeContext);

/** Whether who is signed in may do what needs a scope; the service judges it again. */
export const useMay = (scope: 'write' | 'people' | 'tokens') => useMe().scopes.includes(scope);
