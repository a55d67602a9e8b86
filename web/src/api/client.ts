import createClient from "openapi-fetch";
import { say } from "../words";
import type { components, paths } from "./schema.gen";

export type Schemas = components["schemas"];

/** Names a form in an address. */
export type FormAt = { site: string; form: string };

let token = "";

/** Keeps the session's token, which every change must carry. */
export function keepToken(fresh: string) {
  token = fresh;
}

export const api = createClient<paths>({ baseUrl: "/" });

api.use({
  onRequest({ request }) {
    if (request.method !== "GET" && token) request.headers.set("X-Oddtick-Token", token);
    return request;
  },
});

/** One thing that is wrong: where in a document (a path), and where in its text (from 1; 0 where it is at no line). */
export type ProblemPart = { text: string; path: string; line: number; column: number };

/** An answer of the API that is a problem (RFC 9457). */
export class Problem extends Error {
  status: number;
  /** Its problem type, where it has one of its own. */
  type: string;
  /** What is wrong where, one by one. */
  parts: ProblemPart[];
  constructor(status: number, detail: string, type = "", parts: ProblemPart[] = []) {
    super(detail);
    this.status = status;
    this.type = type;
    this.parts = parts;
  }
}

type Answer<T> = { data?: T; error?: unknown; response: Response };

/** Returns an answer's data with its version, which a change of it must name; or throws its problem. */
export async function needVersion<T>(answer: Promise<Answer<T>>): Promise<T & { version: string }> {
  const data = await need(answer);
  return { ...data, version: (await answer).response.headers.get("ETag") ?? "" };
}

/** Returns an answer's data, or throws its problem. */
export async function need<T>(answer: Promise<Answer<T>>): Promise<T> {
  let got: Answer<T>;
  try {
    got = await answer;
  } catch {
    throw new Problem(0, say.api.oddTickDoesNotAnswer);
  }
  if (!got.response.ok) {
    const said = got.error as Partial<Schemas["ErrorModel"]> | undefined;
    throw new Problem(
      got.response.status,
      said?.detail ?? say.api.oddTickAnsweredWithStatus(got.response.status),
      said?.type,
      (said?.errors ?? []).map((e) => {
        const at = e.value as Partial<ProblemPart> | undefined;
        return { text: e.message ?? "", path: e.location ?? "", line: at?.line ?? 0, column: at?.column ?? 0 };
      }),
    );
  }
  return got.data as T;
}
