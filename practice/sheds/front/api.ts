// What the page asks of its server: JSON with a bearer token, which is renewed once it has expired.

const switches = (document.documentElement.dataset.switches ?? "").split(" ");

/** on tells whether a planted fault is switched on. */
export const on = (fault: string) => switches.includes(fault);

export type Wrong = { name: string; detail: string };

export class Problem extends Error {
  constructor(
    readonly status: number,
    title: string,
    readonly errors: Wrong[],
  ) {
    super(title);
  }
}

const ACCESS = "sheds.access";
const REFRESH = "sheds.refresh";

export const signedIn = () => localStorage.getItem(REFRESH) !== null;

export function signOut() {
  localStorage.removeItem(ACCESS);
  localStorage.removeItem(REFRESH);
}

type Tokens = { access: string; refresh: string };

export function keep(t: Tokens) {
  localStorage.setItem(ACCESS, t.access);
  localStorage.setItem(REFRESH, t.refresh);
}

async function send(method: string, path: string, body?: unknown): Promise<Response> {
  const headers: Record<string, string> = {};
  const token = localStorage.getItem(ACCESS);
  if (token) headers.Authorization = `Bearer ${token}`;
  const form = body instanceof FormData;
  if (body !== undefined && !form) headers["Content-Type"] = "application/json";
  return fetch(path, { method, headers, body: body === undefined ? undefined : form ? body : JSON.stringify(body) });
}

async function renew(): Promise<boolean> {
  const refresh = localStorage.getItem(REFRESH);
  if (!refresh) return false;
  const answer = await send("POST", "/api/session/refresh", { refresh });
  if (!answer.ok) return false;
  keep(await answer.json());
  return true;
}

/** ask sends a request and reads its answer; what is refused is thrown as a problem. */
export async function ask<T>(method: string, path: string, body?: unknown): Promise<T> {
  let answer = await send(method, path, body);
  if (answer.status === 401 && (await renew())) answer = await send(method, path, body);
  const read = await answer.json();
  if (!answer.ok) throw new Problem(answer.status, read.title ?? "", read.errors ?? []);
  return read;
}
