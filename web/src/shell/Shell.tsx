import { type ReactNode, useEffect, useState } from "react";
import { Link, useLocation } from "react-router";
import { useSay } from "../kit/Says";
import { TallyMark } from "../kit/TallyMark";
import { useSession, useSignOut } from "../lib/session";
import { useTheme } from "../lib/theme";
import { SignInAgain } from "../pieces/SignInAgain";
import { AccountPanel } from "./AccountPanel";
import { Bar } from "./Bar";
import { Keys } from "./Keys";
import { Palette } from "./Palette";
import { Words } from "./Words";

/** The bar above every screen, the search, and the list of keys. */
export function Shell({ children }: { children: ReactNode }) {
  const [finding, setFinding] = useState(false);
  const [keys, setKeys] = useState(false);
  const [words, setWords] = useState(false);
  const [account, setAccount] = useState(false);
  const [dark, turn] = useTheme();
  const session = useSession().data;
  const signOut = useSignOut();
  const say = useSay();
  const refused = session?.sign_on_refused;
  useEffect(() => {
    if (refused) say(refused, { bad: true });
  }, [refused, say]);
  // At a work center there is one thing at a time, and a bar of its own.
  const bare = useLocation().pathname.startsWith("/shop/at/");
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "k") {
        event.preventDefault();
        setFinding((now) => !now);
      } else if (event.key === "?" && !event.ctrlKey && !event.altKey) {
        const at = event.target as HTMLElement;
        if (at.closest("input, textarea, select")) return;
        event.preventDefault();
        setKeys(true);
      }
    };
    window.addEventListener("keydown", press, true);
    return () => window.removeEventListener("keydown", press, true);
  }, []);
  return (
    <div className="flex h-full flex-col">
      {!bare && (
        <header className="topbar flex h-11 shrink-0 items-center gap-6 bg-bar px-4 text-bar-ink">
          <Link to="/today" className="mr-1 flex items-center gap-2.5 font-bold whitespace-nowrap text-white">
            <TallyMark />
            Round Tally
          </Link>
          <Bar />
          <button
            type="button"
            onClick={() => setFinding(true)}
            className="ml-auto flex w-[250px] justify-between rounded bg-white/10 px-2.5 py-1.5 text-bar-quiet hover:text-white"
          >
            <span>Find a part, sheet or command</span>
            <kbd className="font-sans">Ctrl K</kbd>
          </button>
          <button type="button" onClick={turn} className="text-bar-quiet hover:text-white">
            {dark ? "Light" : "Dark"}
          </button>
          <button
            type="button"
            onClick={() => setKeys(true)}
            className="text-bar-quiet hover:text-white"
            aria-label="Keys of this screen"
          >
            ?
          </button>
          <button type="button" onClick={() => setAccount(true)} className="text-bar-quiet hover:text-white">
            Account
          </button>
          <button
            type="button"
            onClick={() => signOut.mutate()}
            className="text-bar-quiet hover:text-white"
            title="Sign out"
          >
            {session?.name || session?.user} · sign out
          </button>
        </header>
      )}
      <main className="min-h-0 flex-1">{children}</main>
      <SignInAgain />
      <Palette
        open={finding}
        onClose={() => setFinding(false)}
        onTheme={turn}
        onKeys={() => setKeys(true)}
        onWords={() => setWords(true)}
        onAccount={() => setAccount(true)}
      />
      {account && <AccountPanel onClose={() => setAccount(false)} />}
      <Keys
        open={keys}
        onClose={() => setKeys(false)}
        onWords={() => {
          setKeys(false);
          setWords(true);
        }}
      />
      <Words open={words} onClose={() => setWords(false)} />
    </div>
  );
}
