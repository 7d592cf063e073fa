import type { ReactNode } from "react";

import { useAccount } from "./api";
import { SignInPage } from "./SignInPage";

/** The pages, for whoever need not sign in or has; what goes wrong in asking is shown by the pages. */
export function EntryGate({ children }: { children: ReactNode }) {
  const account = useAccount();
  if (account.isPending) return null;
  if (account.data?.accounts && account.data.name === null) return <SignInPage />;
  return children;
}
