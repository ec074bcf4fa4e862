/** What of an OpenAPI document is shown: addresses that are read, what they take, and what they answer. */
interface Form {
  type?: string;
  $ref?: string;
  items?: Form;
  anyOf?: Form[];
  additionalProperties?: Form | boolean;
  properties?: Record<string, Form>;
  description?: string;
}

interface Operation {
  tags?: string[];
  summary?: string;
  description?: string;
  parameters?: { name: string; in: string; required?: boolean; schema?: Form }[];
  responses?: Record<string, { content?: Record<string, { schema?: Form }> }>;
}

export interface Wholly {
  paths: Record<string, Record<string, Operation>>;
  components?: { schemas?: Record<string, Form> };
}

export interface Address {
  path: string;
  words: string;
  takes: { name: string; needed: boolean; kind: string; within: boolean }[];
  answers: { name: string; kind: string; depth: number }[];
  whole: string;
}

const DEEP = 2;
/** Not read by programs: what is of a person, and what a token does not open. */
const OF_PEOPLE = ["session", "tokens", "today", "jobs", "hooks"];
const LISTS: Record<string, string> = {
  "an object": "a list of objects",
  text: "a list of texts",
  "a number": "a list of numbers",
  "a whole number": "a list of whole numbers",
};

function kindOf(form: Form | undefined): string {
  if (!form) return "";
  if (form.$ref) return "an object";
  if (form.anyOf) return form.anyOf.map(kindOf).filter(Boolean).join(" or ");
  if (form.type === "array") return LISTS[kindOf(form.items)] ?? "a list";
  if (form.type === "object") return "values by name";
  return (
    { string: "text", integer: "a whole number", number: "a number", boolean: "yes or no", null: "nothing" }[
      form.type ?? ""
    ] ?? "anything"
  );
}

/** The object that a form leads to, through lists and choices. */
function object(form: Form | undefined, known: Record<string, Form>): Form | undefined {
  if (!form) return undefined;
  if (form.$ref) return known[form.$ref.split("/").at(-1)!];
  const beneath = form.items ?? form.anyOf?.find((f) => f.$ref || f.items);
  return beneath && object(beneath, known);
}

function fields(form: Form | undefined, known: Record<string, Form>, depth = 0): Address["answers"] {
  return Object.entries(object(form, known)?.properties ?? {}).flatMap(([name, f]) => [
    { name, kind: kindOf(f), depth },
    ...(depth < DEEP ? fields(f, known, depth + 1) : []),
  ]);
}

/** The addresses that are read, by their subject. */
export function readings(document: Wholly): { tag: string; addresses: Address[] }[] {
  const known = document.components?.schemas ?? {};
  const groups = new Map<string, Address[]>();
  for (const [path, methods] of Object.entries(document.paths)) {
    const get = methods.get;
    const tag = get?.tags?.[0];
    if (!get || !tag || OF_PEOPLE.includes(tag)) continue;
    const form = get.responses?.["200"]?.content?.["application/json"]?.schema;
    const address = {
      path,
      words: get.description ?? get.summary ?? "",
      takes: (get.parameters ?? []).map((p) => ({
        name: p.name,
        needed: p.required ?? false,
        kind: kindOf(p.schema),
        within: p.in === "path",
      })),
      answers: fields(form, known),
      whole: form ? kindOf(form) : "a file",
    };
    groups.set(tag, [...(groups.get(tag) ?? []), address]);
  }
  return [...groups].map(([tag, addresses]) => ({ tag, addresses }));
}
