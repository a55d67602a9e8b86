/** A browser and its system in few words, of what it calls itself (RFC 9110, User-Agent). */
export function browserOf(agent: string): string {
  const named = [
    [/\bFirefox\//, "Firefox"],
    [/\bEdg(A|iOS)?\//, "Edge"],
    [/\bOPR\//, "Opera"],
    [/\b(Headless)?(Chrome|Chromium|CriOS)\//, "Chrome"],
    [/\bSafari\//, "Safari"],
  ] as const;
  const systems = [
    [/\bWindows\b/, "Windows"],
    [/\bAndroid\b/, "Android"],
    [/\b(iPhone|iPad)\b/, "iOS"],
    [/\bMac OS X\b/, "macOS"],
    [/\bLinux\b/, "Linux"],
  ] as const;
  const browser = named.find(([is]) => is.test(agent))?.[1];
  const system = systems.find(([is]) => is.test(agent))?.[1];
  if (!browser) return agent.split(/[\s/]/)[0]?.slice(0, 40) || "Unknown program";
  return system ? `${browser} on ${system}` : browser;
}
