import { createContext, useContext, type ReactNode } from "react";
import type { SessionShape } from "./client";

const SessionContext = createContext<SessionShape | null>(null);

/** Who is signed in, for everything below; the public pages stand outside it. */
export function SessionProvider({ session, children }: { session: SessionShape; children: ReactNode }) {
  return <SessionContext.Provider value={session}>{children}</SessionContext.Provider>;
}

/** Who is signed in. */
export function useSession(): SessionShape {
  const session = useContext(SessionContext);
  if (session === null)
    throw new Error("This needs somebody signed in and stands outside a SessionProvider.");
  return session;
}

/** Whether an act may be done; nothing may where nobody is signed in. */
export function useMay(): (act: string) => boolean {
  const session = useContext(SessionContext);
  return (act) => session?.may.includes(act) ?? false;
}
