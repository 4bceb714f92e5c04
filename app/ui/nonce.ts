import { createContext, useContext } from 'react';

/** The nonce of this answer, on the server; browsers hide it, so the client has none. */
export const NonceContext = createContext<string | undefined>(undefined);
export const useNonce = () => useContext(NonceContext);
