type Details = Record<string, unknown>;

/** The kinds of rules that a field can be given. */
export const ruleKinds = [
  "required",
  "length",
  "pattern",
  "characters",
  "email",
  "url",
  "number",
  "range",
  "step",
  "decimals",
  "date",
  "time",
  "one_of_options",
  "must_be_checked",
  "same_as",
  "different_from",
  "unique",
  "file",
  "exists_in",
  "matches_secret",
  "no_overlap",
];

/** What a new rule of a kind starts with. */
export function begun(kind: string, field: string, other: string): Details {
  switch (kind) {
    case "length":
      return { max: 100 };
    case "pattern":
      return { is: "[A-Za-z]+" };
    case "characters":
      return { of: "a-zA-Z0-9" };
    case "range":
      return { date: { max: "today" }, time: { max: "23:59" }, datetime: { max: "now" } }[field] ?? { min: "1" };
    case "step":
      return { by: "1" };
    case "decimals":
      return { max: 2 };
    case "same_as":
    case "different_from":
      return { field: other };
    case "unique":
    case "exists_in":
      return { column: "table.column" };
    case "matches_secret":
      return { stored: "table.column" };
    case "no_overlap":
      return { to: other, table: "table", begins: "begins", ends: "ends" };
    case "file":
      return { max: 200000 };
    default:
      return {};
  }
}
