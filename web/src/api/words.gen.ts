// Made from core/wording by make generate: names of what the API gives as codes.

/** The seven checks, in their order. */
export const checks = [
  { check: "outcome", name: "Outcome" },
  { check: "response", name: "Response" },
  { check: "messages", name: "Messages" },
  { check: "refilled_values", name: "Values kept" },
  { check: "stored_data", name: "Stored data" },
  { check: "secrets", name: "Secrets" },
  { check: "session", name: "Session" },
] as const;

export const checkName: Record<(typeof checks)[number]["check"], string> = {
  outcome: "Outcome",
  response: "Response",
  messages: "Messages",
  refilled_values: "Values kept",
  stored_data: "Stored data",
  secrets: "Secrets",
  session: "Session",
};

export const fieldKindName: Record<string, string> = {
  text: "text",
  textarea: "text area",
  email: "e-mail",
  url: "URL",
  tel: "telephone",
  password: "password",
  number: "number",
  date: "date",
  time: "time",
  datetime: "date and time",
  single_choice: "single choice",
  multiple_choice: "multiple choice",
  checkbox: "checkbox",
  file: "file",
  hidden: "hidden",
  readonly: "read-only",
  honeypot: "honeypot",
};

export const ruleKindName: Record<string, string> = {
  required: "required",
  length: "length",
  pattern: "pattern",
  characters: "allowed characters",
  email: "e-mail address",
  number: "number",
  range: "range",
  step: "steps",
  date: "date",
  one_of_options: "one of the options",
  must_be_checked: "must be checked",
  same_as: "same as another field",
  different_from: "different from another field",
  unique: "unique",
  url: "URL",
  decimals: "decimals",
  time: "time",
  file: "file",
  exists_in: "exists in a table",
  matches_secret: "equals the stored password",
  no_overlap: "no overlap",
  across: "across fields",
};
