/** So many of a part with some options; an empty quantity only asks what one of it takes. */
export interface Build {
  part: string;
  quantity: string;
  options: string[];
  /** The day it is wanted, where that matters; ISO 8601. */
  wanted?: string;
}

/** Builds as they stand in an address: part:quantity:OPTION+OPTION:day, with commas between. */
export function readBuilds(text: string): Build[] {
  return text
    .split(",")
    .filter(Boolean)
    .map((one) => {
      const [part = "", quantity = "", options = "", wanted = ""] = one.split(":").map(decodeURIComponent);
      return { part, quantity, options: options.split("+").filter(Boolean), ...(wanted ? { wanted } : {}) };
    });
}

export function writeBuilds(builds: Build[]): string {
  return builds
    .map((b) =>
      [b.part, b.quantity, b.options.join("+"), b.wanted ?? ""].map(encodeURIComponent).join(":").replace(/:+$/, ""),
    )
    .join(",");
}
