// Finds the controls of a page as a person or a screen reader does, by role and accessible name, and tells what each holds.
(() => {
  if (globalThis.oddtickControls) return
  const squash = (text) => (text ?? "").trim().replace(/\s+/g, " ")
  // a label without the colon and the mark that the field is required
  const bare = (label) => squash(squash(label).replace(/\s*(\*+|✱|\((required|erforderlich|pflichtfeld|obligatoire|obligatorio|gofynnol)\))\s*:?\s*$|^\s*\*+\s*/i, "")).replace(/\s*:$/, "")

  const TEXTBOXES = new Set(["text", "search", "tel", "url", "email", "password", "date", "time", "datetime-local", "month", "week", "color"])
  // roleOf is an element's role: its own, or that of its kind (HTML-AAM); "file" stands for a control that takes a file.
  const roleOf = (e) => {
    const own = (e.getAttribute("role") ?? "").trim().split(/\s+/)[0]
    if (own) return own
    switch (e.tagName) {
      case "INPUT":
        if (e.type === "checkbox" || e.type === "radio" || e.type === "file") return e.type
        if (e.type === "number") return "spinbutton"
        if (e.type === "range") return "slider"
        return TEXTBOXES.has(e.type) ? (e.list ? "combobox" : "textbox") : ""
      case "TEXTAREA":
        return "textbox"
      case "SELECT":
        return e.multiple || e.size > 1 ? "listbox" : "combobox"
      case "BUTTON":
        return "button"
      case "FIELDSET":
        return "group"
      default:
        return e.isContentEditable && e.getAttribute("contenteditable") !== null ? "textbox" : ""
    }
  }
  const NAMED_BY_CONTENT = new Set(["button", "switch", "option", "checkbox", "radio", "link", "tab", "menuitem"])
  // labelOf is an element's accessible name, in the order of HTML-AAM.
  const labelOf = (e) => {
    const by = e.getAttribute("aria-labelledby")
    const root = e.getRootNode()
    if (by) {
      const text = squash(by.split(/\s+/).map((id) => root.getElementById?.(id)?.textContent ?? "").join(" "))
      if (text) return text
    }
    if (e.getAttribute("aria-label")) return squash(e.getAttribute("aria-label"))
    if (e.labels?.length) return squash(e.labels[0].textContent)
    if (e.id) {
      const label = root.querySelector?.(`label[for="${CSS.escape(e.id)}"]`)
      if (label) return squash(label.textContent)
    }
    if (e.tagName === "FIELDSET") return squash(e.querySelector(":scope > legend")?.textContent)
    if (NAMED_BY_CONTENT.has(roleOf(e)) && squash(e.textContent)) return squash(e.textContent)
    if (e.tagName === "INPUT" && ["submit", "button", "reset"].includes(e.type)) return squash(e.value)
    return squash(e.getAttribute("title") ?? e.getAttribute("placeholder") ?? "")
  }
  // what a field of a kind may be on a page, the likeliest first
  const TEXT = ["textbox", "searchbox", "combobox"]
  const BY_KIND = {
    number: ["textbox", "spinbutton", "slider", "combobox"],
    date: ["textbox", "combobox", "button", "group"],
    time: ["textbox", "combobox", "spinbutton"],
    datetime: ["textbox", "combobox", "button"],
    single_choice: ["combobox", "listbox", "radiogroup", "group", "toolbar", "button"],
    multiple_choice: ["group", "toolbar", "listbox", "combobox"],
    checkbox: ["checkbox", "switch", "button"],
    file: ["file"],
  }
  const visible = (e) => e.checkVisibility({ visibilityProperty: true })
  const disabled = (e) => e.matches(":disabled") || e.getAttribute("aria-disabled") === "true"

  // find is the control of a field among elements: of a role that suits its kind, with one of its labels as its name.
  const find = (field, elements) => {
    const roles = field.role ? [field.role] : (BY_KIND[field.kind] ?? TEXT)
    const labels = field.labels.map(bare).filter((label) => label !== "")
    const suit = elements.filter((e) => roles.includes(roleOf(e)) && (field.otherName || field.role || !e.name || e.name === field.name))
    const first = (list) => list.find((e) => visible(e)) ?? list[0] ?? null
    const fits = (test) => first(suit.filter((e) => test(bare(labelOf(e)))))
    return fits((name) => labels.includes(name)) ?? fits((name) => labels.some((l) => name.startsWith(`${l} `))) ?? (field.role && suit.length === 1 ? suit[0] : null)
  }

  const chosen = (e) => e.checked === true || ["aria-checked", "aria-pressed", "aria-selected"].some((a) => e.getAttribute(a) === "true")
  // choicesIn are what one can choose in an element: radio buttons, checkboxes, buttons that stay pressed, options.
  const choicesIn = (e) => [...e.querySelectorAll('input[type="radio"], input[type="checkbox"], [role="radio"], [role="checkbox"], [role="option"], [aria-pressed], [role="menuitemradio"]')].filter((c) => c.getAttribute("aria-hidden") !== "true")
  const valueOf = (e) => (e instanceof HTMLInputElement && e.hasAttribute("value") ? e.value : (e.dataset.value ?? e.getAttribute("value") ?? ""))
  const choice = (e, value, label) => {
    const list = choicesIn(e)
    const texts = [label, value].filter((t) => t !== "").map(squash)
    return (value !== "" ? list.find((c) => valueOf(c) === value) : null) ?? list.find((c) => texts.includes(labelOf(c)) || texts.includes(squash(c.textContent))) ?? null
  }
  const numberIn = (e) => e.getAttribute("aria-valuenow") ?? e.value ?? ""

  // stands is what a control that is found by role and label holds: how it is to be read, its values, and which of them are chosen.
  const stands = (e) => {
    const role = roleOf(e)
    switch (role) {
      case "checkbox":
      case "switch":
        return { type: "checkbox", values: ["on"], chosen: [chosen(e)] }
      case "radiogroup":
      case "group":
      case "toolbar":
      case "listbox": {
        if (e instanceof HTMLSelectElement) return { type: "checkbox", values: [...e.options].map((o) => o.value), chosen: [...e.options].map((o) => o.selected) }
        const list = choicesIn(e)
        const one = role === "radiogroup" || list.some((c) => roleOf(c) === "radio")
        return { type: one ? "radio" : "checkbox", values: list.map((c) => valueOf(c) || labelOf(c)), chosen: list.map(chosen) }
      }
      case "slider":
      case "spinbutton":
        return { type: "text", values: [String(numberIn(e))] }
      case "file":
        return { type: "file", values: [] }
      case "button":
        if (e.getAttribute("aria-pressed") !== null) return { type: "checkbox", values: ["on"], chosen: [chosen(e)] }
    }
    if (e instanceof HTMLInputElement || e instanceof HTMLTextAreaElement || e instanceof HTMLSelectElement) return { type: e.type === "password" ? "password" : "text", values: [e.value] }
    // a list or a calendar behind a button shows what is chosen; many say where they only show that nothing is
    return { type: "button", values: e.hasAttribute("data-placeholder") || e.querySelector("[data-placeholder]") ? [""] : [squash(e.textContent)] }
  }

  const MONTHS = ["january|januar|ionawr", "february|februar|chwefror", "march|märz|mawrth", "april|ebrill", "may|mai", "june|juni|mehefin", "july|juli|gorffennaf", "august|awst", "september|medi", "october|oktober|hydref", "november|tachwedd", "december|dezember|rhagfyr"].map((names) => new RegExp(`(^|[^\\p{L}])(${names})([^\\p{L}]|$)`, "iu"))
  const monthIn = (text) => {
    const year = /(^|\D)(\d{4})(\D|$)/.exec(text)
    const month = MONTHS.findIndex((m) => m.test(text))
    return year && month >= 0 ? { year: Number(year[2]), month } : null
  }
  const BEFORE = /prev|back|earlier|zurück|vorherig|vorig|blaenorol|^[‹<«←]$/i
  const AFTER = /next|forward|later|weiter|nächst|nesaf|^[›>»→]$/i
  const buttonsIn = (e) => [...e.querySelectorAll('button, [role="button"], [role="gridcell"]')].filter(visible)
  // months tells which month an open calendar shows, and the buttons that lead to the one before and the one after; null for no calendar.
  const calendar = () => {
    const places = [...document.querySelectorAll('[role="dialog"], [role="grid"], [role="application"], table, [data-radix-popper-content-wrapper]')].filter(visible)
    for (const place of places.reverse()) {
      for (let e = place; e && e !== document.body; e = e.parentElement) {
        const buttons = buttonsIn(e)
        const before = buttons.find((b) => BEFORE.test(labelOf(b)) && !monthIn(labelOf(b)))
        const after = buttons.find((b) => AFTER.test(labelOf(b)) && !monthIn(labelOf(b)))
        if (!before && !after) continue
        const heading = [...e.querySelectorAll("h1, h2, h3, h4, caption, [role='heading'], [aria-live], div, span")].map((h) => squash(h.textContent)).find((t) => t.length < 40 && monthIn(t))
        if (heading) return { ...monthIn(heading), before, after, in: e }
      }
    }
    return null
  }
  // dayIn is the button of a day of the month that a calendar shows.
  const dayIn = (shown, day) => {
    const list = buttonsIn(shown.in).filter((b) => b !== shown.before && b !== shown.after && squash(b.textContent) === String(day))
    const fits = list.filter((b) => {
      const named = monthIn(labelOf(b)) ?? monthIn(squash(b.getAttribute("aria-label")))
      return !named || (named.month === shown.month && named.year === shown.year)
    })
    return fits.find((b) => !disabled(b)) ?? fits[0] ?? null
  }

  globalThis.oddtickControls = { squash, roleOf, labelOf, bare, find, stands, choice, choicesIn, chosen, calendar, dayIn, disabled, visible, ROLES: 'input, select, textarea, button, fieldset, [role], [contenteditable=""], [contenteditable="true"]' }
})();
