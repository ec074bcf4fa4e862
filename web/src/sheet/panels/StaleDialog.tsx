import { Dialog } from "radix-ui";
import { Button } from "../../kit/Button";
import { useFocusBack } from "../../kit/useFocusBack";
import type { Stale } from "../../lib/api";

/** Somebody else saved first: both versions, side by side, and the choice. */
export function StaleDialog({ stale, onSettle }: { stale: Stale | null; onSettle: (mine: boolean) => void }) {
  const focusBack = useFocusBack();
  return (
    <Dialog.Root open={stale !== null} onOpenChange={() => {}}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/35" />
        <Dialog.Content
          {...focusBack}
          className="rise fixed top-[14vh] left-1/2 z-50 w-[640px] max-w-[96vw] -translate-x-1/2 border border-hair-2 bg-paper p-5"
        >
          <Dialog.Title className="text-[18px] font-semibold">
            {stale?.by || "Somebody"} saved this sheet before you
          </Dialog.Title>
          <Dialog.Description className="mt-1 text-ink-2">
            Nothing of yours is lost: choose what stands.
          </Dialog.Description>
          {stale && stale.conflicts.length > 0 ? (
            <table className="mt-3 w-full">
              <thead>
                <tr className="border-b border-hair-2 text-left text-[12px] text-ink-2">
                  <th className="font-normal">Line</th>
                  <th className="font-normal">Field</th>
                  <th className="font-normal">It was</th>
                  <th className="font-normal">Theirs</th>
                  <th className="font-normal">Yours</th>
                </tr>
              </thead>
              <tbody>
                {stale.conflicts.map((c) => (
                  <tr key={`${c.id}${c.field}`} className="h-8 border-b border-hair">
                    <td className="pn">{c.label}</td>
                    <td>{c.field.replaceAll("_", " ")}</td>
                    <td className="text-ink-3">{c.found || "nothing"}</td>
                    <td>{c.theirs || "nothing"}</td>
                    <td className="font-semibold">{c.yours || "nothing"}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          ) : (
            <p className="mt-3">They changed other things than you did; yours can be laid on theirs as it is.</p>
          )}
          <div className="mt-4 flex gap-2">
            <Button look="strong" autoFocus onClick={() => onSettle(true)}>
              Lay mine on theirs
            </Button>
            <Button onClick={() => onSettle(false)}>Keep theirs, drop mine</Button>
          </div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
