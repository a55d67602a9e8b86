// Made from core/wording by make generate: names of what the API gives as codes.

import { language } from "../words";

/** The codes of the seven checks, in their order. */
const codes = ["outcome", "response", "messages", "refilled_values", "stored_data", "secrets", "session"] as const;

type Check = (typeof codes)[number];
type Names = {
  check: Record<Check, string>;
  verdict: Record<string, string>;
  fieldKind: Record<string, string>;
  ruleKind: Record<string, string>;
};

const names: Record<string, Names> = {
  en: {
    check: {
      outcome: "Outcome",
      response: "Response",
      messages: "Messages",
      refilled_values: "Values kept",
      stored_data: "Stored data",
      secrets: "Secrets",
      session: "Session",
    },
    verdict: {
      "": "not run",
      "as expected": "as expected",
      "does not apply": "not applicable",
      "not observed": "not observed",
      odd: "odd",
    },
    fieldKind: {
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
    },
    ruleKind: {
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
    },
  },
  de: {
    check: {
      outcome: "Ergebnis",
      response: "Antwort",
      messages: "Meldungen",
      refilled_values: "Erhaltene Werte",
      stored_data: "Gespeicherte Daten",
      secrets: "Geheimnisse",
      session: "Sitzung",
    },
    verdict: {
      "": "nicht gelaufen",
      "as expected": "wie erwartet",
      "does not apply": "nicht anwendbar",
      "not observed": "nicht beobachtet",
      odd: "auffällig",
    },
    fieldKind: {
      text: "Text",
      textarea: "Textbereich",
      email: "E-Mail",
      url: "URL",
      tel: "Telefon",
      password: "Passwort",
      number: "Zahl",
      date: "Datum",
      time: "Zeit",
      datetime: "Datum und Zeit",
      single_choice: "Einfachauswahl",
      multiple_choice: "Mehrfachauswahl",
      checkbox: "Kontrollkästchen",
      file: "Datei",
      hidden: "verborgen",
      readonly: "nur lesbar",
      honeypot: "Honeypot",
    },
    ruleKind: {
      required: "Pflicht",
      length: "Länge",
      pattern: "Muster",
      characters: "erlaubte Zeichen",
      email: "E-Mail-Adresse",
      number: "Zahl",
      range: "Bereich",
      step: "Schritte",
      date: "Datum",
      one_of_options: "eine der Optionen",
      must_be_checked: "muss angehakt sein",
      same_as: "gleich einem anderen Feld",
      different_from: "verschieden von einem anderen Feld",
      unique: "eindeutig",
      url: "URL",
      decimals: "Nachkommastellen",
      time: "Zeit",
      file: "Datei",
      exists_in: "steht in einer Tabelle",
      matches_secret: "gleich dem gespeicherten Passwort",
      no_overlap: "keine Überschneidung",
      across: "über Felder hinweg",
    },
  },
};

const used = names[language()] as Names;

/** The seven checks, in their order. */
export const checks = codes.map((check) => ({ check, name: used.check[check] }));

export const checkName = used.check;
export const verdictName = used.verdict;
export const fieldKindName = used.fieldKind;
export const ruleKindName = used.ruleKind;
