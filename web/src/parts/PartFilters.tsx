import { PART_KINDS } from "../lib/declared";
import { type Found, useClasses } from "../pieces/parts/useParts";

export type Filters = Omit<Found, "search">;

/** What the list of parts is narrowed to, besides words. */
export function PartFilters({ filters, onChange }: { filters: Filters; onChange: (next: Filters) => void }) {
  const classes = useClasses();
  return (
    <>
      <select
        className="field max-w-[130px]"
        aria-label="Kind"
        value={filters.kind}
        onChange={(e) => onChange({ ...filters, kind: e.target.value })}
      >
        <option value="">every kind</option>
        {Object.keys(PART_KINDS).map((k) => (
          <option key={k}>{k}</option>
        ))}
      </select>
      {classes.length > 0 && (
        <select
          className="field max-w-[150px]"
          aria-label="Class"
          value={filters.part_class}
          onChange={(e) => onChange({ ...filters, part_class: e.target.value })}
        >
          <option value="">every class</option>
          {classes.map((c) => (
            <option key={c.name}>{c.name}</option>
          ))}
        </select>
      )}
      <label className="flex items-center gap-1.5 whitespace-nowrap" title="Glue, grease, paint, labels, packaging">
        <input
          type="checkbox"
          checked={filters.unmodelled}
          onChange={() => onChange({ ...filters, unmodelled: !filters.unmodelled })}
        />
        on no drawing
      </label>
    </>
  );
}
