import { useMemo } from "react";
import type { SheetView } from "../../model/wire";
import { fieldsOf, isWhyNot, ownText, useClasses, useOwnValues } from "../../pieces/parts/useParts";
import type { Column } from "./column";

/** So many stand beside the columns that every reader has. */
const MOST = 4;
const WIDTH = 284;

/** Fields of classes as columns of lines: those in which most parts of the product say something. Fetched when they are shown. */
export function useOwnFields(view: SheetView | undefined, shown: boolean): Column[] {
  const classes = useClasses(shown);
  const fields = useMemo(() => fieldsOf(classes), [classes]);
  const names = fields.map((f) => f.name);
  const parts = useMemo(() => (shown && view ? view.parts.map((p) => p.number).sort() : []), [shown, view]);
  const found = useOwnValues(parts, names);
  return useMemo(() => {
    if (!found) return [];
    const said = (name: string) => Object.values(found[name] ?? {}).filter((text) => !isWhyNot(text)).length;
    const most = fields
      .filter((f) => said(f.name) > 0)
      .sort((a, b) => said(b.name) - said(a.name))
      .slice(0, MOST);
    return most.map(({ name, title, number }) => {
      const value: Column["value"] = (r) => found[name]?.[r.part?.number ?? ""] ?? null;
      return {
        key: `own: ${name}`,
        label: title,
        // The fewer they are, the more room each has.
        width: `${Math.min(96, Math.floor(WIDTH / most.length))}px`,
        right: number,
        number,
        value,
        show: (r) => {
          const text = value(r);
          return (
            <span className="truncate text-ink-2" title={String(text ?? "")}>
              {ownText(text)}
            </span>
          );
        },
      };
    });
  }, [found, fields]);
}
