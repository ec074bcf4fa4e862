import { Dialog } from "radix-ui";
import type { ReactNode } from "react";
import { useFocusBack } from "./useFocusBack";

/** A dialog that comes in from the right, over the screen it belongs to. */
export function Panel({
  title,
  note,
  open,
  onClose,
  children,
}: {
  title: string;
  note?: string;
  open: boolean;
  onClose: () => void;
  children: ReactNode;
}) {
  const focusBack = useFocusBack();
  return (
    <Dialog.Root open={open} onOpenChange={(now) => !now && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/35" />
        <Dialog.Content
          {...focusBack}
          className="rise fixed top-0 right-0 bottom-0 z-50 flex w-[460px] max-w-full flex-col overflow-y-auto border-l border-hair-2 bg-paper p-5"
          aria-describedby={undefined}
        >
          <Dialog.Title className="text-[18px] font-semibold">{title}</Dialog.Title>
          {note && <p className="mt-0.5 text-ink-2">{note}</p>}
          {children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
