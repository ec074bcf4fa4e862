/** So many of a part with some options; an empty quantity only asks what one of it takes. */
export interface Build {
  part: string;
  quantity: string;
  options: string[];
}

/** Builds as they stand in an address: part:quantity:OPTION+OPTION, with commas between. */
export function readBuilds(text: string): Build[] {
  return text
    .split(",")
    .filter(Boolean)
    .map((one) => {
      const [part = "", quantity = "", options = ""] = one.split(":").map(decodeURIComponent);
      return { part, quantity, options: options.split("+").filter(Boolean) };
    });
}

export function writeBuilds(builds: Build[]): string {
  return builds
    .map((b) => [b.part, b.quantity, b.options.join("+")].map(encodeURIComponent).join(":").replace(/:+$/, ""))
    .join(",");
}
