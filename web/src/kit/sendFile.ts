import { Refusal, refusal } from "../lib/api";

const LIMIT = 20 * 1024 * 1024;

/** Sends one file to an address and gives back what is answered. Throws a Refusal, also for a file that is too large. */
export async function sendFile<Answer>(path: string, file: File): Promise<Answer> {
  if (file.size > LIMIT)
    throw new Refusal(
      413,
      `${file.name} has ${Math.round(file.size / 1024 / 1024)} MB; at most 20 MB can be brought in. Nothing was sent.`,
    );
  const body = new FormData();
  body.append("file", file);
  const token = document.cookie.match(/(?:^|; )csrftoken=([^;]*)/)?.[1] ?? "";
  const response = await fetch(path, { method: "POST", body, headers: { "X-CSRFToken": token } }).catch(() => {
    throw new Refusal(0, "The server cannot be reached. The file is untouched; try again in a moment.");
  });
  const said = await response.json().catch(() => null);
  if (!response.ok) throw refusal(response.status, said);
  return said;
}
