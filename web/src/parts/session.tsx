import { createContext, useContext } from "react";
import type { Schemas } from "../api/client";

export type Session = Schemas["SessionView"];
export type Role = "helper" | "maker" | "owner";

const RANK: Record<Role, number> = { helper: 0, maker: 1, owner: 2 };

interface Me {
  name: string;
  role: Role;
  /** Whether somebody of my role may do what asks for another. */
  may: (asked: Role) => boolean;
}

const Context = createContext<Me>({ name: "", role: "helper", may: () => false });

export const MeProvider = Context.Provider;

export function meOf(session: Session | undefined): Me {
  const role = (session?.person?.role ?? "helper") as Role;
  return { name: session?.person?.name ?? "", role, may: (asked) => !!session?.person && RANK[role] >= RANK[asked] };
}

/** Who is signed in here. */
export function useMe(): Me {
  return useContext(Context);
}
