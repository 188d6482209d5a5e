import { createContext, useContext } from 'react';
import type { Schemas } from '../api/client';

export type Me = Schemas['MeView'];

export const MeContext = createContext<Me>({ name: '', email: '', isOwner: false });

/** Who is signed in. */
export const useMe = () => useContext(MeContext);
