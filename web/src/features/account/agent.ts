import { say } from "../../words";

/** A browser and its system in few words, of what it calls itself (RFC 9110, User-Agent). */
export function browserOf(agent: string): string {
  const named = [
    [/\bFirefox\//, say.account.firefox],
    [/\bEdg(A|iOS)?\//, say.account.edge],
    [/\bOPR\//, say.account.opera],
    [/\b(Headless)?(Chrome|Chromium|CriOS)\//, say.account.chrome],
    [/\bSafari\//, say.account.safari],
  ] as const;
  const systems = [
    [/\bWindows\b/, say.account.windows],
    [/\bAndroid\b/, say.account.android],
    [/\b(iPhone|iPad)\b/, "iOS"],
    [/\bMac OS X\b/, "macOS"],
    [/\bLinux\b/, say.account.linux],
  ] as const;
  const browser = named.find(([is]) => is.test(agent))?.[1];
  const system = systems.find(([is]) => is.test(agent))?.[1];
  if (!browser) return agent.split(/[\s/]/)[0]?.slice(0, 40) || say.account.unknownProgram;
  return system ? say.account.on(browser, system) : browser;
}
