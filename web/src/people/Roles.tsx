/** Roles to tick, each with what it lets one change. */
export function Roles({
  roles,
  chosen,
  onChange,
  error,
}: {
  roles: Record<string, string[]>;
  chosen: string[];
  onChange: (roles: string[]) => void;
  error?: string;
}) {
  return (
    <fieldset>
      <legend className="pb-1 text-ink-2">Roles</legend>
      {Object.entries(roles).map(([role, may]) => (
        <label key={role} className="flex min-h-6 items-baseline gap-2 py-0.5">
          <input
            type="checkbox"
            checked={chosen.includes(role)}
            onChange={(event) =>
              onChange(event.target.checked ? [...chosen, role] : chosen.filter((other) => other !== role))
            }
          />
          <span>
            {role}
            <span className="block text-[12px] text-ink-3">
              {may.length > 0 ? `changes ${may.join(", ")}` : "looks, and changes nothing"}
            </span>
          </span>
        </label>
      ))}
      {error && (
        <p role="alert" className="text-[12px] text-bad">
          {error}
        </p>
      )}
    </fieldset>
  );
}
