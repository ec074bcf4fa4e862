import { ofThisPage, refusal } from "../lib/api";

/** Fetches a file, made from what is on screen where that is sent along, and hands it to the person. Throws a Refusal. */
export async function download(path: string, body?: unknown): Promise<void> {
  const sent = {
    method: "POST",
    headers: { "Content-Type": "application/json", ...ofThisPage() },
    body: JSON.stringify(body),
  };
  const response = await fetch(path, body === undefined ? {} : sent);
  if (!response.ok) throw refusal(response.status, await response.json().catch(() => null));
  const name = response.headers.get("Content-Disposition")?.match(/filename="([^"]*)"/)?.[1] ?? "list";
  const link = document.createElement("a");
  link.href = URL.createObjectURL(await response.blob());
  link.download = name;
  link.click();
  window.setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
}
