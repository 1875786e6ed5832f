'use client';

import { createContext, type ReactNode, useContext } from 'react';
import { type Me, type Right, roleMay } from '@/core/people/rights';

const MeContext = createContext<Me | undefined>(undefined);

/** Who is signed in, for everything below; undefined on a server without accounts. */
export function MeProvider({ me, children }: { me: Me | undefined; children: ReactNode }) {
  return <MeContext value={me}>{children}</MeContext>;
}

export const useMe = (): Me | undefined => useContext(MeContext);

/** Whether whoever looks may do something here. The server says so too; this is what is offered. */
export function useMay(right: Right): boolean {
  const me = useMe();
  return me === undefined || roleMay(me.role, right);
}

/** Why something is not offered: `A viewer sees plans and takes code away.` */
export function useRoleWords(): string | undefined {
  const me = useMe();
  return me && `You are a${/^[eo]/.test(me.role) ? 'n' : ''} ${me.role} in ${me.workspace.name}`;
}

/** What only those see who have a right here. */
export function May({ right, children }: { right: Right; children: ReactNode }) {
  return useMay(right) ? children : null;
}
