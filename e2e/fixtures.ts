import { expect, type Page } from "@playwright/test";

/** A made-up form with rules across fields, conditions and replies; nothing runs it. */
export const shed = `form: shed
title: Ask for a shed
page: /shed
fields:
  - {id: kind, name: kind, label: Kind of shed, kind: single_choice, options: [{label: Tool box, value: box}, {label: Small shed, value: small}, {label: Greenhouse, value: glass}], rules: [{required: {message: "Choose a kind."}}]}
  - {id: width, name: width, label: Width in metres, kind: number, rules: [{required: {message: "Give the width."}}, {range: {min: 1, max: 6, message: "1 to 6 metres."}}, {step: {by: 0.5, message: "Halves of a metre."}}]}
  - {id: neighbour, name: neighbour, label: The neighbours agree, kind: checkbox, value: "1"}
  - {id: base, name: base, label: Base, kind: single_choice, when: 'kind != "box"', options: [{value: slabs}, {value: sleepers}]}
  - {id: from, name: from, label: Wanted from, kind: datetime, rules: [{range: {min: "now + 2 days", zone: Europe/London, message: "At least two days ahead."}}]}
  - {id: note, name: note, label: Note, kind: textarea, rules: [{length: {max: 400, message: "At most 400 characters."}}]}
across:
  - {id: edge, must_hold: 'kind == "box" || width <= 2.5 || neighbour', message: "Wide sheds need the neighbours."}
  - {id: glass, must_hold: 'kind == "glass" ? width <= 4 : true', message: "Greenhouses are up to 4 metres wide."}
accepted:
  status: 303
  to: /shed/thanks
  reply: [{when: 'kind == "glass"', text: "We look at the light first."}, {when: 'width > 4', text: "The committee decides."}, {otherwise: "You will hear from us."}]
`;

/** The states of a made-up visitor. */
export const states = `
pages: [{id: home, path: /}, {id: plots, path: /plots}, {id: sheds, path: /shed}]
states:
  - {id: guest, may_open: [home], denied: /sign-in}
  - {id: waiting, may_open: [home], denied: /waiting-list}
  - {id: holder, may_open: [home, plots, sheds]}
journeys:
  - id: begin
    steps: [{submit: join, then: waiting}, {wait_for: confirmation, then: holder}, {submit: shed}]
`;

/** A form of many fields: n of them, of several kinds, each with a few rules. */
export function wide(n: number): string {
  const fields = Array.from({ length: n }, (_, i) => {
    const id = `f${i + 1}`;
    const label = `${["Name of the plant", "Sown on", "Seeds in a row", "Height", "Bed", "Remarks"][i % 6]} ${i + 1}`;
    switch (i % 6) {
      case 0:
        return `  - {id: ${id}, name: ${id}, label: "${label}", normalize: [trim], rules: [{required: {}}, {length: {min: 3, max: 30}}, {pattern: {is: '[A-Za-z ]+'}}]}`;
      case 1:
        return `  - {id: ${id}, name: ${id}, label: "${label}", kind: date, rules: [{range: {min: 2020-01-01, max: "today"}}]}`;
      case 2:
        return `  - {id: ${id}, name: ${id}, label: "${label}", kind: number, rules: [{range: {min: 1, max: 40}}, {step: {by: 1}}]}`;
      case 3:
        return `  - {id: ${id}, name: ${id}, label: "${label}", kind: number, rules: [{range: {min: 0, max: 3}}, {decimals: {max: 2}}]}`;
      case 4:
        return `  - {id: ${id}, name: ${id}, label: "${label}", kind: single_choice, options: [{value: north}, {value: south}, {value: east}]}`;
      default:
        return `  - {id: ${id}, name: ${id}, label: "${label}", kind: textarea, rules: [{length: {max: 200}}]}`;
    }
  });
  return `form: wide\ntitle: A season's sheet\npage: /season\nfields:\n${fields.join("\n")}\n`;
}

/** The same form under another id, for many cases. */
export const many = shed.replace("form: shed", "form: many");

/** Keeps n cases of the form many, as from a sheet. */
export async function keepCases(page: Page, n: number) {
  const answer = await page.evaluate(async (count) => {
    const session = await (await fetch("/api/session")).json();
    const lines = Array.from({ length: count }, (_, i) => `visit ${i + 1},${(i % 11) / 2 + 1}`);
    const got = await fetch("/api/sites/yard/forms/many/case-import", {
      method: "POST",
      headers: { "Content-Type": "application/json", "X-Oddtick-Token": session.token },
      body: JSON.stringify({ text: `title,width\n${lines.join("\n")}\n`, usual: true, keep: true }),
    });
    return got.status;
  }, n);
  expect(answer).toBe(200);
}
