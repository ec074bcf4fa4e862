import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { Command } from "cmdk";
import { Dialog } from "radix-ui";
import { useDeferredValue, useState } from "react";
import { useNavigate } from "react-router";
import { useRegistered } from "../kit/commands";
import { answer, client } from "../lib/api";
import { holds } from "../lib/words";
import { usePlaces } from "./places";

/** One search over parts, their sheets and commands. */
export function Palette({
  open,
  onClose,
  onTheme,
  onKeys,
  onWords,
  onAccount,
}: {
  open: boolean;
  onClose: () => void;
  onTheme: () => void;
  onKeys: () => void;
  onWords: () => void;
  onAccount: () => void;
}) {
  const [text, setText] = useState("");
  const search = useDeferredValue(text.trim());
  const navigate = useNavigate();
  const places = usePlaces();
  const found = useQuery({
    queryKey: ["parts", "find", search],
    queryFn: () => answer(client.GET("/api/parts", { params: { query: { search, limit: 8 } } })),
    enabled: open && search.length > 0,
    placeholderData: keepPreviousData,
  });
  const leave = (then: () => void) => {
    onClose();
    setText("");
    then();
  };
  const here = useRegistered().flatMap(({ find, run }): [string, () => void][] => (find && run ? [[find, run]] : []));
  const classes = useQuery({
    queryKey: ["parts", "classes"],
    queryFn: () => answer(client.GET("/api/parts/classes")),
    enabled: open,
  });
  const commands: [string, () => void][] = [
    ...here,
    ["Bring in a list", () => navigate("/inquiries?new=1&own=1")],
    ["New inquiry", () => navigate("/inquiries?new=1")],
    ["New part", () => navigate("/parts?new=1")],
    ["New work center", () => navigate("/work-centers?new=1")],
    ...places.flatMap(([, of]) => of.map(({ to, find }): [string, () => void] => [find, () => navigate(to)])),
    ...(classes.data ?? []).map((c): [string, () => void] => [
      `Class ${c.name}: its parts`,
      () => navigate(`/parts?class=${encodeURIComponent(c.name)}`),
    ]),
    ["Finished orders", () => navigate("/work-centers?finished=1")],
    ["Make a partner", () => navigate("/partners?new=1")],
    ["Open a round", () => navigate("/rounds?new=1")],
    ["Light or dark", onTheme],
    ["Keys of this screen", onKeys],
    ["What our words mean", onWords],
    ["Your account: password, sessions, tokens for programs", onAccount],
  ];
  const parts = (found.data?.items ?? []).filter((part) => holds(text.trim(), part.number, part.description));
  const matching = commands.filter(([label]) => label.toLowerCase().includes(text.trim().toLowerCase()));
  const item = "flex items-center gap-3 px-4 py-1.5 data-[selected=true]:bg-blue-tint";
  return (
    <Dialog.Root open={open} onOpenChange={(now) => !now && leave(() => {})}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/35" />
        <Dialog.Content
          aria-describedby={undefined}
          className="rise fixed top-[12vh] left-1/2 z-50 w-[560px] max-w-[95vw] -translate-x-1/2 border border-hair-2 bg-paper"
        >
          <Dialog.Title className="sr-only">Find a part, sheet or command</Dialog.Title>
          <Command shouldFilter={false} label="Find">
            <Command.Input
              value={text}
              onValueChange={setText}
              placeholder="Part number, words of a description, or a command"
              className="w-full border-b border-hair bg-transparent px-4 py-3 text-[15px] outline-none"
            />
            <Command.List className="max-h-[50vh] overflow-y-auto py-1" label="Found">
              <Command.Empty className="px-4 py-3 text-ink-3">Nothing goes by these words.</Command.Empty>
              {search &&
                // Enter must not open what was found for fewer letters.
                parts.map((part) => (
                  <Command.Item
                    key={part.number}
                    value={`part ${part.number}`}
                    className={item}
                    onSelect={() =>
                      leave(() =>
                        navigate(
                          part.kind === "made" || part.kind === "phantom"
                            ? `/sheets/${encodeURIComponent(part.number)}`
                            : `/part/${encodeURIComponent(part.number)}`,
                        ),
                      )
                    }
                  >
                    <span className="pn w-[150px] shrink-0 truncate">{part.number}</span>
                    <span className="truncate">{part.description}</span>
                    <span className="ml-auto text-[12px] text-ink-3">{part.sheets ? "sheet" : part.kind}</span>
                  </Command.Item>
                ))}
              {matching.map(([label, run]) => (
                <Command.Item key={label} value={label} className={item} onSelect={() => leave(run)}>
                  {label}
                  <span className="ml-auto text-[12px] text-ink-3">command</span>
                </Command.Item>
              ))}
            </Command.List>
          </Command>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
