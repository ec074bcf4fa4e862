/** Whether sums are kept from whoever is signed in; the server sends none then, and nothing is to look like nought. */
let withoutMoney = false;

export function keepMoneyOff(off: boolean): void {
  withoutMoney = off;
}

const formats = new Map<string, Intl.NumberFormat>();
/** What was written last: a screen is drawn again and again, and mostly its figures are the same. */
const written = new Map<string, string>();
const MOST_WRITTEN = 5000;

function digits(value: number, least: number, most: number): string {
  const key = `${value} ${least} ${most}`;
  let text = written.get(key);
  if (text === undefined) {
    if (written.size >= MOST_WRITTEN) written.clear();
    // Nought below nought reads as nought, whichever of the two came first.
    text = inDigits(value + 0, least, most);
    written.set(key, text);
  }
  return text;
}

/** A number in digits, groups of three apart. A format is made once: making one costs far more than writing with it. */
function inDigits(value: number, least: number, most: number): string {
  const key = `${least} ${most}`;
  let format = formats.get(key);
  if (!format) {
    format = new Intl.NumberFormat("en", { minimumFractionDigits: least, maximumFractionDigits: most });
    formats.set(key, format);
  }
  return format.format(value).replaceAll(",", "\u202f");
}

/** A figure for reading; the wire carries more digits than the eye wants. Missing is a dash, zero is a zero. */
export function money(value: number | null | undefined): string {
  if (value === null || value === undefined || withoutMoney) return "–";
  const size = Math.abs(value);
  return digits(value, 2, size === 0 || size >= 0.1 ? 2 : size >= 0.001 ? 4 : 6);
}

/** A sum of which two places are read, however small: a row of them is read as a whole. */
export function cents(value: number): string {
  return digits(value, 2, 2);
}

/** A difference for reading, with its sign. */
export function signed(value: number): string {
  return Math.abs(value) < 5e-7 ? "the same" : `${value > 0 ? "+" : "−"}${money(Math.abs(value))}`;
}

/** A quantity for reading, up to `digits` decimals. */
export function quantity(value: number | string | null | undefined, most = 4): string {
  if (value === null || value === undefined || value === "") return "–";
  return digits(Number(value), 0, most);
}

/** A fraction as a decimal, where it is one exactly: 1/4 is 0.25, and 1/3 is none. */
function fraction(text: string): string | null {
  const found = text.match(/^(-?)(?:(\d+) )?(\d+)\/(\d+)$/);
  if (!found) return null;
  const [, sign, whole = "0", over, under] = found;
  const value = Number(whole) + Number(over) / Number(under);
  const said = String(Number(value.toFixed(9)));
  return Number(under) > 0 && Number(said) * Number(under) === Number(whole) * Number(under) + Number(over)
    ? `${sign}${said}`
    : null;
}

/**
 * What a person typed as a number, as the server reads it: blanks or the other sign in groups of three, a decimal comma, a
 * fraction. What could be two numbers (1,234) is left as it is, and the server says so.
 */
export function typed(text: string): string {
  const clean = text.trim().replace(/[\u202f\u00a0]/g, " ");
  const share = fraction(clean);
  if (share !== null) return share;
  const groups = /^-?\d{1,3}( \d{3})+([.,]\d+)?$/.test(clean) ? clean.replaceAll(" ", "") : clean;
  if (/^-?\d{1,3}(,\d{3})+\.\d+$/.test(groups) || /^-?\d{1,3}(,\d{3}){2,}$/.test(groups))
    return groups.replaceAll(",", "");
  if (/^-?\d{1,3}(\.\d{3})+,\d+$/.test(groups)) return groups.replaceAll(".", "").replace(",", ".");
  // One comma not followed by exactly three digits can only be a decimal comma.
  return /^-?\d*,\d+$/.test(groups) && !/,\d{3}$/.test(groups) ? groups.replace(",", ".") : groups;
}

const MINUTES: [unit: string, words: RegExp, minutes: number][] = [
  ["d", /^(d|days?)$/i, 1440],
  ["h", /^(h|hrs?|hours?)$/i, 60],
  ["min", /^(m|min|mins|minutes?)$/i, 1],
];

/** Minutes of a time as it is typed: 20, 20 min, 1,5 h or 2 d. What is none of these is left as it is, and the server says so. */
export function typedMinutes(text: string): string {
  const found = text.trim().match(/^([\d.,\s/]+?)\s*([a-z]+)$/i);
  const unit = found && MINUTES.find(([, words]) => words.test(found[2]!));
  if (!unit) return typed(text);
  const number = Number(typed(found[1]!));
  return Number.isNaN(number) ? text : String(Number((number * unit[2]).toFixed(6)));
}

/** Minutes in the largest unit of which they are whole ones: 2 d, 3 h, 45. */
export function minutesText(value: unknown): string {
  const total = Number(value);
  if (value === null || value === undefined || value === "" || Number.isNaN(total) || total <= 0)
    return value === null || value === undefined ? "" : String(value);
  const unit = MINUTES.find(([, , size]) => size > 1 && Number.isInteger(total / size));
  return unit ? `${total / unit[2]} ${unit[0]}` : String(value);
}

/** Minutes for reading. */
export function minutes(value: string | number | null | undefined): string {
  if (value === null || value === undefined) return "–";
  const total = Number(value);
  return total >= 600 ? `${quantity(total / 60, 1)} h` : `${quantity(total, 2)} min`;
}

/** Percent of a share, for reading. */
export function percent(share: number): string {
  return `${digits(share * 100, 0, share < 0.1 ? 1 : 0)} %`;
}

const dayFormat = new Intl.DateTimeFormat("en-GB", {
  day: "numeric",
  month: "short",
  year: "numeric",
  timeZone: "UTC",
});

/** A day for reading: 24 Nov 2026. */
export function day(iso: string | null | undefined): string {
  if (!iso) return "–";
  return dayFormat.format(new Date(`${iso.slice(0, 10)}T12:00:00Z`));
}

/** A moment for reading, where the reader is: 24 Nov, 14:05. */
export function dayAndTime(iso: string): string {
  const at = new Date(iso);
  const of = at.toLocaleDateString("en-GB", { day: "numeric", month: "short" });
  return `${of}, ${at.toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" })}`;
}

/** Today where the reader is, as ISO 8601. */
export function today(): string {
  const now = new Date();
  return new Date(now.getTime() - now.getTimezoneOffset() * 60_000).toISOString().slice(0, 10);
}

const MONTHS = ["jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec"];

/** A day as a person writes it, as ISO 8601; null when it is none or could be two (5/6/2026). */
export function readDay(text: string): string | null {
  const clean = text.trim();
  const iso = clean.match(/^(\d{4})-(\d{1,2})-(\d{1,2})$/);
  const words = clean.match(/^(\d{1,2})\.?\s+([a-z]{3})[a-z]*\.?\s+(\d{4})$/i);
  const dots = clean.match(/^(\d{1,2})\.(\d{1,2})\.(\d{4})$/);
  const [year, month, date] = iso
    ? [iso[1], Number(iso[2]), iso[3]]
    : words
      ? [words[3], MONTHS.indexOf(words[2]!.toLowerCase()) + 1, words[1]]
      : dots
        ? [dots[3], Number(dots[2]), dots[1]]
        : [];
  if (!year || !month || !date) return null;
  const found = `${year}-${String(month).padStart(2, "0")}-${date.padStart(2, "0")}`;
  const at = new Date(`${found}T12:00:00Z`);
  return !Number.isNaN(at.getTime()) && at.toISOString().startsWith(found) ? found : null;
}
