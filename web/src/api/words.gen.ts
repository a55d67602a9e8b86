// Made from core/wording by make generate: names of what the API gives as codes.

/** The seven checks, in their order. */
export const checks = [
  { check: "outcome", name: "Outcome" },
  { check: "response", name: "Response" },
  { check: "messages", name: "Messages" },
  { check: "refilled_values", name: "Refilled values" },
  { check: "stored_data", name: "Stored data" },
  { check: "secrets", name: "Secrets" },
  { check: "session", name: "Session" },
] as const;

export const checkName: Record<(typeof checks)[number]["check"], string> = {
  outcome: "Outcome",
  response: "Response",
  messages: "Messages",
  refilled_values: "Refilled values",
  stored_data: "Stored data",
  secrets: "Secrets",
  session: "Session",
};
