import { expect, it } from "vitest";
import { pathAt, unreadable } from "./completion";

const text = `form: join
fields:
  - name: username
    rules:
      - length: {max: 20}
      - required:
          message: x
accepted:
  session:
    lock:
`.split("\n");

it("the lines above tell where a line stands", () => {
  expect(pathAt(text, 0)).toEqual([]);
  expect(pathAt(text, 2)).toEqual(["fields", "[]"]);
  expect(pathAt(text, 3)).toEqual(["fields", "[]"]);
  expect(pathAt(text, 5)).toEqual(["fields", "[]", "rules", "[]"]);
  expect(pathAt(text, 6)).toEqual(["fields", "[]", "rules", "[]", "required"]);
  expect(pathAt([...text.slice(0, 10), "      af"], 10)).toEqual(["accepted", "session", "lock"]);
  expect(pathAt(["fields:", "- name: a", "  la"], 2)).toEqual(["fields", "[]"]);
});

it("a text that is no YAML says where", () => {
  expect(unreadable("form: [a")[0]).toMatchObject({ line: 1 });
  expect(unreadable("form: a")).toEqual([]);
});
