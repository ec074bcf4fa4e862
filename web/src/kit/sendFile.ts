import { ofThisPage, Refusal, refusal } from "../lib/api";

const LIMIT = 20 * 1024 * 1024;

/** Sends one file, or several at once, to an address and gives back what is answered. Throws a Refusal, also for what is too large. */
export async function sendFile<Answer>(path: string, ...files: File[]): Promise<Answer> {
  const size = files.reduce((sum, file) => sum + file.size, 0);
  if (size > LIMIT)
    throw new Refusal(
      413,
      `${files.length === 1 ? `${files[0]!.name} has` : `${files.length} files have`} ${Math.round(size / 1024 / 1024)} MB; at most 20 MB can be brought in. Nothing was sent.`,
    );
  const body = new FormData();
  for (const file of files) body.append("file", file);
  const response = await fetch(path, { method: "POST", body, headers: ofThisPage() }).catch(() => {
    throw new Refusal(0, "The server cannot be reached. What was chosen is untouched; try again in a moment.");
  });
  const said = await response.json().catch(() => null);
  if (!response.ok) throw refusal(response.status, said);
  return said;
}
