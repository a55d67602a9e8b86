import { expect, test } from "vitest";
import { placeLink, placesFor } from "./search";

const all = [
  { kind: "site", site: "ost", text: "Ostlewick Allotments" },
  { kind: "form", site: "ost", form: "join", text: "Join the association", in: "Ostlewick Allotments" },
  { kind: "form", site: "ost", form: "pass", text: "Change password", in: "Ostlewick Allotments" },
  {
    kind: "field",
    site: "ost",
    form: "join",
    id: "password",
    text: "Password",
    in: "Ostlewick Allotments · Join the association",
  },
  {
    kind: "finding",
    site: "ost",
    form: "join",
    id: "k3v7q2za",
    text: "Password stored in plain text",
    in: "Ostlewick Allotments · Join the association",
  },
] as const;

const found = (sought: string) => placesFor([...all], sought).map((p) => p.text);

test("every word must occur, in any order and any capitals", () => {
  expect(found("PLAIN join")).toEqual(["Password stored in plain text"]);
  expect(found("nothing like it")).toEqual([]);
  expect(found("k3v7q2za")).toEqual(["Password stored in plain text"]);
});

test("what begins with the words comes first, and forms are listed before anything is typed", () => {
  expect(found("password")).toEqual(["Password", "Password stored in plain text", "Change password"]);
  expect(found(" ")).toEqual(["Join the association", "Change password"]);
});

test("each kind of place has a view", () => {
  expect(all.map((p) => placeLink(p))).toEqual([
    "/sites/ost/may-it-ship",
    "/sites/ost/forms/join/cases",
    "/sites/ost/forms/pass/cases",
    "/sites/ost/forms/join/rules?field=password",
    "/sites/ost/forms/join/findings?finding=k3v7q2za",
  ]);
});
