import { download } from "../kit/download";
import { Menu, MenuItem } from "../kit/Menu";
import { useSay } from "../kit/Says";

const SHAPES = [
  ["xlsx", "Cost lists as workbooks that calculate"],
  ["csv", "Cost lists as CSV"],
  ["pdf", "Cost lists as PDF, to print"],
  ["bundle", "Definitions as bundles"],
  ["cyclonedx", "Parts and assemblies by CycloneDX 1.6"],
] as const;

/** Every product of the matrix as a file of its own, in one archive that says what is in it. */
export function ProductFiles({ parts, day, drafts }: { parts: string[]; day: string; drafts: boolean }) {
  const say = useSay();
  const leave = (shape: string) => {
    const query = new URLSearchParams({ shape, drafts: String(drafts) });
    for (const part of new Set(parts)) query.append("part", part);
    if (day) query.set("day", day);
    download(`/api/sheets/files.zip?${query}`).catch((error: Error) => say(error.message, { bad: true }));
  };
  return (
    <Menu label="Each product …" className="!min-h-[26px]">
      {SHAPES.map(([shape, words]) => (
        <MenuItem key={shape} onSelect={() => leave(shape)}>
          {words}
        </MenuItem>
      ))}
    </Menu>
  );
}
