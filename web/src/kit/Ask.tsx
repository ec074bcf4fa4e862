import { Dialog } from "radix-ui";
import type { ReactNode } from "react";
import { Button } from "./Button";
import { useFocusBack } from "./useFocusBack";

/** Asks once before something that cannot be taken back, and says what it will do. */
export function Ask({
  open,
  title,
  yes,
  onYes,
  onClose,
  children,
}: {
  open: boolean;
  title: string;
  yes: string;
  onYes: () => void;
  onClose: () => void;
  children: ReactNode;
}) {
  const focusBack = useFocusBack();
  return (
    <Dialog.Root open={open} onOpenChange={(next) => !next && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/35" />
        <Dialog.Content
          {...focusBack}
          className="rise fixed top-[22vh] left-1/2 z-50 w-[520px] max-w-[96vw] -translate-x-1/2 border border-hair-2 bg-paper p-5"
        >
          <Dialog.Title className="text-[18px] font-semibold">{title}</Dialog.Title>
          <Dialog.Description className="mt-2">{children}</Dialog.Description>
          <div className="mt-4 flex gap-2">
            <Button
              look="strong"
              autoFocus
              onClick={() => {
                onClose();
                onYes();
              }}
            >
              {yes}
            </Button>
            <Button onClick={onClose}>Leave it</Button>
          </div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
