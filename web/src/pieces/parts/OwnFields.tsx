import { Field } from "../../kit/Field";
import { typed } from "../../lib/number";
import type { PartClass } from "./useParts";

/** A field's name as words, its unit said once. */
function labelOf(name: string, unit: string): string {
  const words = name.replaceAll("_", " ");
  if (!unit) return words;
  return `${words.endsWith(` ${unit}`) ? words.slice(0, -unit.length - 1) : words}, ${unit}`;
}

/** The fields a class gives its parts: those that are stated to be typed, those that are computed to be read. */
export function OwnFields({
  partClass,
  values,
  computed,
  wrong,
  may,
  onChange,
}: {
  partClass: PartClass;
  values: Record<string, string>;
  computed: Record<string, string>;
  wrong: (place: string) => string | undefined;
  may: boolean;
  onChange: (values: Record<string, string>) => void;
}) {
  return (
    <div className="grid grid-cols-2 gap-3 pt-1 pb-2">
      {partClass.fields.map((own) => {
        const label = labelOf(own.name, own.unit ?? "");
        if (own.kind === "computed") {
          const value = computed[own.name] ?? "";
          return (
            <div key={own.name} className="flex min-w-0 flex-col gap-0.5">
              <span className="text-ink-2">{label}</span>
              <output
                className={`min-h-[30px] pt-1 ${value.startsWith("–") ? "text-ink-3" : Number.isNaN(Number(value)) ? "" : "text-right"}`}
              >
                {value || "– when saved"}
              </output>
              <span className="truncate text-[12px] text-ink-3" title={own.expression}>
                = {own.expression}
              </span>
            </div>
          );
        }
        const number = own.kind === "number" || own.kind === "money";
        const set = (text: string) => onChange({ ...values, [own.name]: text });
        return (
          <Field
            key={own.name}
            label={label}
            hint={own.kind === "date" ? "a day like 2026-01-31" : undefined}
            error={wrong(`own_values.${own.name}`)}
          >
            {(p) =>
              own.kind === "choice" ? (
                <select
                  {...p}
                  className="field"
                  disabled={!may}
                  value={values[own.name] ?? ""}
                  onChange={(event) => set(event.target.value)}
                >
                  <option value=""> </option>
                  {own.choices.map((choice) => (
                    <option key={choice}>{choice}</option>
                  ))}
                </select>
              ) : (
                <input
                  {...p}
                  className={`field ${number ? "text-right" : ""}`}
                  inputMode={number ? "decimal" : undefined}
                  disabled={!may}
                  value={values[own.name] ?? ""}
                  onChange={(event) => set(event.target.value)}
                  onBlur={(event) => number && set(typed(event.target.value))}
                />
              )
            }
          </Field>
        );
      })}
    </div>
  );
}
