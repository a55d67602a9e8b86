import { expect, test } from "vitest";
import { idOf, optionOf, stepsOf, stepsText } from "./names";
import { begun, ruleKinds } from "./new-rule";

test("an id is made of a name as the server makes it", () => {
  for (const [name, id] of [
    ["Join anew", "join_anew"],
    ["member[e-mail]", "member_e_mail"],
    ["  7 plots  ", "plots"],
    ["Ünïcode", "n_code"],
    ["__", ""],
  ] as const)
    expect(idOf(name)).toBe(id);
});

test("an option is read back to its label and value", () => {
  expect(optionOf("From a neighbour = nb")).toEqual({ label: "From a neighbour", value: "nb" });
  expect(optionOf("a = b = c")).toEqual({ label: "a = b", value: "c" });
  expect(optionOf("= fk")).toEqual({ label: "fk", value: "fk" });
});

test("a new rule begins with what its kind and its field need", () => {
  expect(begun("range", "date", "")).toEqual({ max: "today" });
  expect(begun("range", "time", "")).toEqual({ max: "23:59" });
  expect(begun("range", "number", "")).toEqual({ min: "1" });
  expect(begun("same_as", "password", "pass")).toEqual({ field: "pass" });
  expect(begun("required", "text", "")).toEqual({});
  for (const kind of ruleKinds) expect(typeof begun(kind, "text", "x")).toBe("object");
});

test("normalizing steps are read back as they are written", () => {
  const steps = ["trim", { strip: "-" }, { date: "DD.MM.YYYY" }, { number: "1.234,5" }, { phone: "+44" }];
  expect(stepsText(steps)).toBe("trim, strip: -, date: DD.MM.YYYY, number: 1.234,5, phone: +44");
  expect(stepsOf(stepsText(steps))).toEqual(steps);
  expect(stepsOf(" lower , ")).toEqual(["lower"]);
});
