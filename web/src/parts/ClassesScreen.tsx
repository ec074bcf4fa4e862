import { useNavigate, useSearchParams } from "react-router";
import { Button } from "../kit/Button";
import { Empty } from "../kit/Empty";
import { useMay } from "../lib/session";
import { type PartClass, useClasses } from "../pieces/parts/useParts";
import { ClassForm } from "./ClassForm";

const NONE: PartClass = { name: "", prefix: "", digits: 0, start: 1, step: 1, fields: [], version: 0, parts: 0 };

/** Classes of parts: how their numbers run, and the fields they give their parts. */
export function ClassesScreen() {
  const classes = useClasses();
  const [params, setParams] = useSearchParams();
  const navigate = useNavigate();
  const may = useMay("parts");
  const making = params.has("new");
  const name = params.get("class") ?? classes[0]?.name;
  const open = making ? NONE : classes.find((c) => c.name === name);
  return (
    <div className="flex h-full flex-col px-4 pt-3 pb-4">
      <div className="flex items-center gap-3 pb-3">
        <h1 className="text-[20px] font-semibold">Classes of parts</h1>
        <span className="text-ink-2">how their numbers run, and the fields they give their parts</span>
        <span className="ml-auto flex gap-2">
          <Button onClick={() => navigate("/parts")}>To the parts</Button>
          <Button needs="parts" look="strong" onClick={() => setParams({ new: "1" })}>
            New class
          </Button>
        </span>
      </div>
      {classes.length === 0 && !making ? (
        <Empty
          title="No classes yet"
          action={
            <Button needs="parts" look="strong" onClick={() => setParams({ new: "1" })}>
              Make the first class
            </Button>
          }
        >
          A class is a kind of thing you have many of: screws, sheet metal, labels. It gives its parts running numbers
          and fields of their own.
        </Empty>
      ) : (
        <div className="grid min-h-0 flex-1 grid-cols-[300px_1fr] gap-5">
          <ul aria-label="Classes" className="overflow-y-auto border-t border-ink bg-paper">
            {classes.map((c) => (
              <li key={c.name}>
                <button
                  type="button"
                  aria-current={!making && c.name === open?.name}
                  className={`flex w-full items-baseline gap-2 border-b border-hair px-3 py-1.5 text-left hover:bg-blue-tint ${!making && c.name === open?.name ? "bg-blue-tint" : ""}`}
                  onClick={() => setParams({ class: c.name })}
                >
                  <span className="min-w-0 truncate font-semibold">{c.name}</span>
                  <span className="ml-auto text-[12px] whitespace-nowrap text-ink-3">
                    {c.digits ? `${c.prefix}${"0".repeat(c.digits)}` : ""}
                  </span>
                  <span className="w-[60px] text-right text-[12px] whitespace-nowrap text-ink-2">
                    {c.parts} {c.parts === 1 ? "part" : "parts"}
                  </span>
                </button>
              </li>
            ))}
          </ul>
          {open && (
            <ClassForm
              key={`${open.name} ${open.version} ${making}`}
              held={open}
              may={may}
              onSaved={(saved) => setParams({ class: saved.name })}
            />
          )}
        </div>
      )}
    </div>
  );
}
