import { describe, expect, it } from "vitest";
import { changes, pathOf, pathText, valueAt, withAt, written } from "./changes";
import { blank, fits, type Schema, shapeOf, type Value } from "./schema";

const form: Value & { fields: Value[] } = {
  form: "plot",
  fields: [{ name: "bed", rules: [{ length: { max: 20 } }] }, { name: "size" }],
};

describe("changes of a document", () => {
  it("are as small as can be", () => {
    expect(changes(form, withAt(form, ["fields", 0, "rules", 0, "length", "max"], 30))).toEqual([
      { do: "set", path: "fields[0].rules[0].length.max", value: 30 },
    ]);
    expect(changes(form, withAt(form, ["title"], "A plot"))).toEqual([{ do: "set", path: "title", value: "A plot" }]);
    expect(changes(form, withAt(form, ["fields", 0], undefined))).toEqual([{ do: "remove", path: "fields[0]" }]);
    expect(changes(form, withAt(form, ["fields"], [...form.fields, { name: "new" }]))).toEqual([
      { do: "insert", path: "fields", value: { name: "new" }, at: -1 },
    ]);
    expect(changes(form, form)).toEqual([]);
  });
  it("set a whole map whose keys are no words", () => {
    const was = { answer: { equal: { "$.id": "beds.id" } } };
    expect(changes(was, withAt(was, ["answer", "equal", "$.to"], "beds.to"))).toEqual([
      { do: "set", path: "answer.equal", value: { "$.id": "beds.id", "$.to": "beds.to" } },
    ]);
  });
  it("set a list whose items were moved item by item", () => {
    expect(changes(["a", "b"], ["b", "a"])).toHaveLength(2);
    expect(changes(["a", "b", "c"], ["c"])).toEqual([{ do: "set", path: "", value: ["c"] }]);
  });
});

it("a problem's path leads to its value, by number and by name", () => {
  expect(pathOf(form, "fields[0].rules[length].length.max")).toEqual(["fields", 0, "rules", 0, "length", "max"]);
  expect(pathOf(form, "fields[size].when")).toEqual(["fields", 1, "when"]);
  expect(pathText(["fields", 0, "name"])).toBe("fields[0].name");
  expect(valueAt(form, ["fields", 1, "name"])).toBe("size");
  expect(valueAt(form, ["fields", 7, "name"])).toBeUndefined();
});

it("a schema tells the shape of a value, and one to begin with", () => {
  const root: Schema = {
    $defs: {
      Message: { type: "object", properties: { part: { type: ["string", "number", "boolean"] } } },
      Rule: { properties: { length: { $ref: "#/$defs/Message" } }, maxProperties: 1 },
    },
  };
  const message: Schema = { anyOf: [{ type: ["string", "number"] }, { $ref: "#/$defs/Message" }] };
  expect(shapeOf(root, { $ref: "#/$defs/Rule" })).toMatchObject({ is: "object", name: "Rule", sole: true });
  expect(fits(root, message, { part: "x" })).toBe(true);
  expect(fits(root, message, { other: "x" })).toBe(false);
  expect(blank(root, message)).toBe("");
  expect(blank(root, { enum: [null, "empty"] })).toBeNull();
  expect(blank(root, { type: "array", items: {} })).toEqual([]);
});

it("a text keeps what does not change, comments too", () => {
  const text = "site: plots # the id\ntitle: Plots\npages:\n  - {id: home, path: /home}\n";
  const was = { site: "plots", title: "Plots", pages: [{ id: "home", path: "/home" }] };
  expect(written(text, was, was)).toBe(text);
  expect(written(text, was, withAt(was, ["pages", 0, "path"], "/"))).toBe(text.replace("path: /home", "path: /"));
  expect(written(text, was, withAt(was, ["title"], undefined))).toBe(text.replace("title: Plots\n", ""));
  expect(written("", {}, { site: "plots" })).toBe("site: plots\n");
});
