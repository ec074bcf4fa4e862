import { expect, test } from "vitest";
import { readings } from "./reading";

test("addresses that are read, with what they take and answer, through references and lists", () => {
  const text = { type: "string" };
  const found = readings({
    paths: {
      "/api/parts/one": {
        get: {
          tags: ["parts"],
          description: "One part.",
          parameters: [{ name: "number", in: "query", required: true, schema: text }],
          responses: { "200": { content: { "application/json": { schema: { $ref: "#/components/schemas/Part" } } } } },
        },
        patch: { tags: ["parts"] },
      },
      "/api/parts/list/{shape}": {
        get: { tags: ["parts"], parameters: [{ name: "shape", in: "path", required: true }] },
      },
      "/api/tokens": { get: { tags: ["tokens"] } },
    },
    components: {
      schemas: {
        Part: {
          properties: {
            number: text,
            days: { anyOf: [{ type: "integer" }, { type: "null" }] },
            prices: { type: "array", items: { $ref: "#/components/schemas/Price" } },
          },
        },
        Price: { properties: { unit_cost: text } },
      },
    },
  });
  expect(found.map((g) => [g.tag, g.addresses.map((a) => a.path)])).toEqual([
    ["parts", ["/api/parts/one", "/api/parts/list/{shape}"]],
  ]);
  const [one, list] = found[0]!.addresses;
  expect(one!.takes).toEqual([{ name: "number", needed: true, kind: "text", within: false }]);
  expect(one!.answers).toEqual([
    { name: "number", kind: "text", depth: 0 },
    { name: "days", kind: "a whole number or nothing", depth: 0 },
    { name: "prices", kind: "a list of objects", depth: 0 },
    { name: "unit_cost", kind: "text", depth: 1 },
  ]);
  expect([list!.whole, list!.takes[0]!.within]).toEqual(["a file", true]);
});
