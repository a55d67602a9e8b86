// Runs in a world of its own beside the page's scripts: it sees the page's elements and none of its variables. It only reads, sets
// controls as asked, and notes what comes and goes.
(() => {
  if (globalThis.oddtick) return
  const UNSEEN = "data-oddtick-unseen"
  const BOX = "data-oddtick-box"
  const FIELD = "data-oddtick-field"
  const STANDS = "data-oddtick-stands"
  const INSIDE = "data-oddtick-inside"
  const { squash, roleOf, labelOf, find, stands, choice, choicesIn, chosen, calendar, dayIn, disabled, visible, ROLES } = globalThis.oddtickControls
  const SKIPPED = new Set(["SCRIPT", "STYLE", "TEMPLATE", "NOSCRIPT", "HEAD", "SVG", "IFRAME", "OBJECT", "CANVAS"])
  const VOID = new Set(["AREA", "BASE", "BR", "COL", "EMBED", "HR", "IMG", "INPUT", "LINK", "META", "SOURCE", "TRACK", "WBR"])
  // elements that can host a shadow root, but for custom ones (DOM Standard, attachShadow)
  const HOSTS = new Set(["ARTICLE", "ASIDE", "BLOCKQUOTE", "DIV", "FOOTER", "H1", "H2", "H3", "H4", "H5", "H6", "HEADER", "MAIN", "NAV", "P", "SECTION", "SPAN"])
  const MOST_SHOTS = 16
  const MOST_CHARACTERS = 2_000_000

  const escaped = (text) => text.replaceAll("&", "&amp;").replaceAll("<", "&lt;").replaceAll(">", "&gt;").replaceAll('"', "&quot;")

  // ---- what a person sees ----

  const numbers = (color) => {
    const m = /^rgba?\(([\d.]+),\s*([\d.]+),\s*([\d.]+)(?:,\s*([\d.]+))?\)$/.exec(color)
    return m ? [Number(m[1]), Number(m[2]), Number(m[3]), m[4] === undefined ? 1 : Number(m[4])] : null
  }
  // shadow roots that the page's scripts have closed, by their hosts; the protocol hands them in
  const closed = new WeakMap()
  const rootOf = (e) => e.shadowRoot ?? closed.get(e) ?? null
  const parentOf = (e) => e.assignedSlot ?? e.parentElement ?? (e.getRootNode() instanceof ShadowRoot ? e.getRootNode().host : null)
  // relative luminance and contrast: WCAG 2.2
  const luminance = ([r, g, b]) => {
    const [x, y, z] = [r, g, b].map((v) => (v / 255 <= 0.04045 ? v / 255 / 12.92 : ((v / 255 + 0.055) / 1.055) ** 2.4))
    return 0.2126 * x + 0.7152 * y + 0.0722 * z
  }
  const contrast = (a, b) => {
    const [x, y] = [luminance(a), luminance(b)]
    return (Math.max(x, y) + 0.05) / (Math.min(x, y) + 0.05)
  }
  const behind = (e) => {
    for (let n = e; n; n = parentOf(n)) {
      const s = getComputedStyle(n)
      if (s.backgroundImage !== "none") return null
      const c = numbers(s.backgroundColor)
      if (!c) return null
      if (c[3] >= 0.99) return c
      if (c[3] > 0) return null
    }
    return [255, 255, 255, 1]
  }
  const opaque = (e) => {
    if (e instanceof HTMLImageElement || e instanceof HTMLVideoElement || e instanceof HTMLCanvasElement || e instanceof HTMLIFrameElement) return true
    const s = getComputedStyle(e)
    if (Number(s.opacity) < 0.5) return false
    const c = numbers(s.backgroundColor)
    return s.backgroundImage !== "none" || (c && c[3] > 0.5)
  }
  const within = (outer, inner) => {
    for (let n = inner; n; n = parentOf(n)) if (n === outer) return true
    return false
  }
  const coveredAt = (e, x, y) => {
    let root = e.getRootNode()
    if (!root.elementFromPoint) root = document
    const hit = root.elementFromPoint(x, y)
    if (!hit || within(e, hit) || within(hit, e)) return false
    for (let n = hit; n && !within(n, e); n = parentOf(n)) if (opaque(n)) return true
    return false
  }
  const clippedAway = (e, rect) => {
    for (let n = parentOf(e); n && n !== document.body && n !== document.documentElement; n = parentOf(n)) {
      const s = getComputedStyle(n)
      if (s.overflow === "visible" && s.clipPath === "none" && s.clip === "auto") continue
      const r = n.getBoundingClientRect()
      if (r.width <= 1 || r.height <= 1) return true
      if (s.overflowX === "hidden" && (rect.right <= r.left || rect.left >= r.right)) return true
      if (s.overflowY === "hidden" && (rect.bottom <= r.top || rect.top >= r.bottom)) return true
    }
    return false
  }
  const centre = (rect) => [rect.left + rect.width / 2, rect.top + rect.height / 2]
  const inView = (x, y) => x >= 0 && y >= 0 && x < innerWidth && y < innerHeight

  // unseen says why a text cannot be seen, "" where it can.
  const unseen = (e, range) => {
    if (!e.checkVisibility()) {
      for (let n = e; n; n = parentOf(n)) {
        if (getComputedStyle(n).display === "none") return "not displayed"
        if (n instanceof HTMLDetailsElement && !n.open && n !== e) return "in closed details"
      }
      return "not displayed"
    }
    if (!e.checkVisibility({ visibilityProperty: true })) return "visibility hidden"
    let opacity = 1
    for (let n = e; n; n = parentOf(n)) opacity *= Number(getComputedStyle(n).opacity)
    if (opacity < 0.1) return "transparent"
    let rect = range.getBoundingClientRect()
    if (rect.width <= 1 || rect.height <= 1) return "without size"
    const style = getComputedStyle(e)
    if (rect.right + scrollX <= 0 || rect.bottom + scrollY <= 0 || rect.left + scrollX >= Math.max(document.documentElement.scrollWidth, innerWidth) || rect.top + scrollY >= Math.max(document.documentElement.scrollHeight, innerHeight)) return "off the screen"
    const own = e.getBoundingClientRect()
    if (style.clipPath === "inset(50%)" || style.clipPath === "inset(100%)" || /^rect\((0px|1px),? (0px|1px),? (0px|1px),? (0px|1px)\)$/.test(style.clip) || (style.overflow !== "visible" && style.display !== "inline" && (own.width <= 1 || own.height <= 1)) || clippedAway(e, rect)) return "clipped away"
    const ink = numbers(style.color)
    if (ink) {
      if (ink[3] < 0.1) return "transparent"
      const ground = behind(e)
      if (ground && ink[3] > 0.9 && contrast(ink, ground) < 1.2) return "in the background's color"
    }
    if (style.pointerEvents !== "none") {
      let [x, y] = centre(rect)
      if (!inView(x, y)) {
        e.scrollIntoView({ block: "center", inline: "nearest", behavior: "instant" })
        rect = range.getBoundingClientRect()
        ;[x, y] = centre(rect)
      }
      if (inView(x, y) && coveredAt(e, x, y)) return "covered"
    }
    return ""
  }

  // ---- the page as it stands, as HTML ----

  const childrenOf = (n) => {
    if (n.nodeType === Node.ELEMENT_NODE) {
      if (rootOf(n)) return rootOf(n).childNodes
      if (n.tagName === "SLOT") {
        const given = n.assignedNodes()
        if (given.length > 0) return given
      }
    }
    return n.childNodes
  }

  const attributes = (e, out, seeing) => {
    for (const a of e.attributes) {
      if (a.name === UNSEEN || a.name === BOX || a.name === FIELD || a.name === STANDS || a.name === INSIDE || /[\s"'<>/=]/.test(a.name)) continue
      if ((a.name === "value" && e instanceof HTMLInputElement) || (a.name === "checked" && e instanceof HTMLInputElement) || (a.name === "selected" && e instanceof HTMLOptionElement)) continue
      out.push(" ", a.name, '="', escaped(a.value), '"')
    }
    if (e instanceof HTMLInputElement) {
      if (e.type !== "file" && (e.value !== "" || e.hasAttribute("value"))) out.push(' value="', escaped(e.value), '"')
      if (e.checked) out.push(" checked")
    }
    // one that has the request name needs no other
    if (marks.has(e) && !fields.some((f) => f.name === marks.get(e) && f.nth > 0)) out.push(" ", FIELD, '="', escaped(marks.get(e)), '" ', STANDS, '="', escaped(JSON.stringify(stands(e))), '"')
    if (inside.has(e)) out.push(" ", INSIDE, '="', escaped(JSON.stringify(inside.get(e))), '"')
    // of a list in which nothing was chosen the first option stands, and nothing need be said
    if (e instanceof HTMLOptionElement && e.selected && (e.defaultSelected || e.index > 0)) out.push(" selected")
    if (!seeing) return
    const texts = [...childrenOf(e)].filter((n) => n.nodeType === Node.TEXT_NODE && n.data.trim() !== "")
    if (texts.length === 0) return
    const range = document.createRange()
    range.setStartBefore(texts[0])
    range.setEndAfter(texts[texts.length - 1])
    const why = unseen(e, range)
    if (why !== "") out.push(" ", UNSEEN, '="', why, '"')
    const r = range.getBoundingClientRect()
    out.push(" ", BOX, '="', [r.left + scrollX, r.top + scrollY, r.width, r.height].map(Math.round).join(" "), '"')
  }

  const serialise = (n, out, seeing) => {
    if (n.nodeType === Node.TEXT_NODE) {
      out.push(escaped(n.data))
      return
    }
    if (n.nodeType !== Node.ELEMENT_NODE || out.length > MOST_CHARACTERS / 4) return
    const tag = n.tagName
    const seen = seeing && !SKIPPED.has(tag) && !["TEXTAREA", "SELECT", "OPTION", "DATALIST", "HTML"].includes(tag)
    const name = /^[A-Za-z][A-Za-z0-9-]*$/.test(tag) ? tag.toLowerCase() : "span"
    out.push("<", name)
    attributes(n, out, seen)
    out.push(">")
    if (VOID.has(tag)) return
    if (n instanceof HTMLTextAreaElement) {
      out.push("\n", escaped(n.value))
    } else if (tag === "TITLE") {
      out.push(escaped(document.title))
    } else if (!["SCRIPT", "STYLE", "TEMPLATE", "NOSCRIPT", "IFRAME", "OBJECT"].includes(tag)) {
      for (const c of childrenOf(n)) serialise(c, out, seeing && !SKIPPED.has(tag))
    }
    out.push("</", name, ">")
  }

  const snapshot = () => {
    mark()
    const at = [scrollX, scrollY]
    const out = ["<!doctype html>"]
    if (document.documentElement) serialise(document.documentElement, out, true)
    scrollTo({ left: at[0], top: at[1], behavior: "instant" })
    return out.join("").slice(0, MOST_CHARACTERS)
  }

  // ---- what comes and goes ----

  let pressed = null // the button that submitted
  let stage = "opened"
  let shots = []
  let invalid = []
  let lastChange = performance.now()
  let due = 0
  let watching = false
  const shoot = () => {
    due = 0
    if (!watching || shots.length >= MOST_SHOTS || !document.body) return
    const html = snapshot()
    if (shots.length > 0 && shots[shots.length - 1].html === html) return
    shots.push({ stage, at: Math.round(performance.now()), html })
  }
  const noticed = () => {
    lastChange = performance.now()
    if (watching && due === 0) due = setTimeout(shoot, 25)
  }
  const observer = new MutationObserver(noticed)
  const observed = new WeakSet()
  const observe = (root) => {
    if (observed.has(root)) return
    observed.add(root)
    observer.observe(root, { subtree: true, childList: true, characterData: true, attributes: true, attributeFilter: ["class", "style", "hidden", "open", "aria-invalid", "aria-hidden", "disabled"] })
  }
  observe(document)
  const refused = (e) => {
      const control = e.composedPath()[0]
      if (closed.has(control)) return // told within its root
      const note = { name: nameOf(control), text: control.validationMessage ?? "", shown: false, custom: Boolean(control.validity?.customError) }
      invalid.push(note)
      setTimeout(() => {
        // the browser shows its own message for the first such control only, which it then focuses
        note.shown = !e.defaultPrevented && document.activeElement === control && !invalid.some((other) => other !== note && other.shown)
      }, 0)
  }
  addEventListener("invalid", refused, true)

  // ---- controls ----

  let fields = [] // those of the form under test: name in the request, kind, labels, role; of one that is not the first of its name, which it is
  let names = new Set()
  // controls that carry no name of their own and are found by role and label, with the name of their field
  let marks = new Map()
  const nameOf = (e) => marks.get(e) ?? e.name ?? ""
  // what is empty does not come over the protocol
  const know = (list = []) => {
    fields = list
    names = new Set(list.map((f) => f.name))
  }
  const gather = (root, selector, into = []) => {
    for (const e of root.querySelectorAll("*")) {
      const root = rootOf(e)
      if (root) {
        observe(root)
        gather(root, selector, into)
      }
      if (e.matches(selector)) into.push(e)
    }
    return into
  }
  const all = (root) => gather(root, "input, select, textarea, button")
  const mark = () => {
    marks = new Map()
    if (fields.length === 0) return
    for (const f of fields.filter((f) => f.nth > 0)) {
      const e = all(document).filter((e) => e.name === f.sentAs)[f.nth]
      if (e) marks.set(e, f.name)
    }
    const native = new Set([...all(document).map((e) => e.name), ...marks.values()])
    const missing = fields.filter((f) => !native.has(f.name) || f.role)
    if (missing.length === 0) return
    const elements = gather(document, ROLES).filter((e) => !marks.has(e))
    for (const f of missing) {
      const e = find(f, elements.filter((e) => !marks.has(e)))
      if (e) marks.set(e, f.name)
    }
  }
  // what lists and calendars offer once they are opened, by the control that opens them
  const inside = new Map()
  let openers = null
  const labelled = (e) => e.hasAttribute("aria-labelledby") || e.labels?.length > 0 || e.hasAttribute("aria-label")
  const formOf = (e) => e.form ?? e.closest?.("form") ?? null
  const formUnderTest = () => {
    mark()
    const counts = new Map()
    for (const e of new Set([...all(document), ...marks.keys()])) {
      const form = formOf(e)
      const name = nameOf(e)
      if (!form || !names.has(name)) continue
      if (!counts.has(form)) counts.set(form, new Set())
      counts.get(form).add(name)
    }
    let best = null
    let most = 0
    for (const [form, found] of counts) if (found.size > most) [best, most] = [form, found.size]
    return best
  }
  // mayHide tells whether there are elements that may hide what they draw, and were not looked into: a custom element without a root
  // that is open, or something drawn of nothing.
  const lookedInto = new WeakSet()
  const mayHide = () => {
    let any = false
    const look = (root) => {
      for (const e of root.querySelectorAll("*")) {
        if (rootOf(e)) look(rootOf(e))
        else if (!lookedInto.has(e) && (e.localName.includes("-") ? e.matches(":defined") : HOSTS.has(e.tagName) && !e.hasChildNodes() && e.offsetHeight > 0)) {
          lookedInto.add(e)
          any = true
        }
      }
    }
    look(document)
    return any
  }
  const controlsOf = () => {
    const form = formUnderTest()
    return all(document).filter((e) => (form ? e.form === form : !e.form))
  }
  // looseButton is the button of controls that stand in no form: the first after the last of them.
  const looseButton = () => {
    const list = controlsOf().filter((e) => names.has(nameOf(e)))
    const last = [...list, ...marks.keys()].sort((a, b) => (a.compareDocumentPosition(b) & Node.DOCUMENT_POSITION_FOLLOWING ? -1 : 1)).at(-1)
    const buttons = controlsOf().filter((c) => c.tagName === "BUTTON" && shown(c) && !marks.has(c))
    return buttons.find((b) => last && last.compareDocumentPosition(b) & Node.DOCUMENT_POSITION_FOLLOWING) ?? buttons[0] ?? null
  }
  const named = (name) => controlsOf().filter((e) => e.name === name && !marks.has(e) && e.type !== "submit" && e.type !== "button")

  // found is the control of a field that has no control of its name.
  const found = (name) => {
    mark()
    for (const [e, field] of marks) if (field === name) return e
    return null
  }
  // goFrom leaves the control that has the focus for another: what is said then may move the others.
  const goFrom = async (to) => {
    const e = active()
    if (!e || e === document.body || (to && within(to, e))) return
    e.blur()
    await new Promise((done) => setTimeout(done, 15))
  }
  const aimed = (e) => {
    held = e
    return { ...described(e), ...pointAt(e), role: roleOf(e), text: labelOf(e), checked: chosen(e), disabled: disabled(e), value: String(e.getAttribute("aria-valuenow") ?? (e.tagName === "BUTTON" ? null : e.value) ?? squash(e.textContent)), open: e.getAttribute("aria-expanded") === "true" }
  }

  const active = () => {
    let e = document.activeElement
    while (e && rootOf(e)?.activeElement) e = rootOf(e).activeElement
    return e
  }
  const shown = (e) => e.checkVisibility({ visibilityProperty: true }) && e.getBoundingClientRect().width > 0
  // pointAt scrolls an element into view and says where a person would click it; null where something else lies there.
  const pointAt = (e) => {
    e.scrollIntoView({ block: "center", inline: "nearest", behavior: "instant" })
    const r = e.getBoundingClientRect()
    const [x, y] = centre(r)
    const hit = document.elementFromPoint(x, y)
    const reached = hit && (within(e, hit) || (e.labels && [...e.labels].some((l) => within(l, hit))) || (rootOf(hit) && within(hit, e)))
    return { x, y, reached: Boolean(reached) && r.width > 0 && r.height > 0 }
  }
  const described = (e) => ({
    tag: e.tagName.toLowerCase(),
    type: e.type ?? "",
    value: String(e.value ?? ""),
    checked: Boolean(e.checked),
    disabled: e.matches(":disabled"),
    readonly: Boolean(e.readOnly),
    shown: shown(e),
  })
  const told = (e) => {
    e.dispatchEvent(new Event("input", { bubbles: true, composed: true }))
    e.dispatchEvent(new Event("change", { bubbles: true }))
  }
  let held = null // the element in hand

  globalThis.oddtick = {
    begin(list) {
      know(list)
      watching = true
      shots = []
      invalid = []
    },
    stage(name) {
      if (due !== 0) {
        clearTimeout(due)
        shoot()
      }
      stage = name
    },
    // focus takes a text control in hand, with its content selected.
    focus(name) {
      const e = named(name)[0]
      if (!e) return null
      held = e
      const about = described(e)
      if (about.disabled || about.readonly || !about.shown) return about
      e.scrollIntoView({ block: "center", inline: "nearest", behavior: "instant" })
      e.focus()
      if (e.value !== "" && e.select) e.select()
      return about
    },
    // reach says where a field's control is, whether a finger finds it there, and whether it is shown.
    reach(name) {
      const e = named(name).find(shown) ?? found(name)
      if (!e) return null
      const label = [...(e.labels ?? [])].find(shown)
      const at = pointAt(e)
      return { ...described(e), ...(at.reached || !label ? at : pointAt(label)), disabled: disabled(e) }
    },
    // holds tells whether a control of a field has the focus, or what belongs to it; holdsHeld, whether the element in hand has.
    holds(name) {
      const e = active()
      if (!e || e === document.body) return false
      const own = [...named(name), found(name)].filter(Boolean)
      return own.some((o) => o === e || within(o, e) || (o.getAttribute("aria-controls") && e.closest?.(`#${CSS.escape(o.getAttribute("aria-controls"))}`)))
    },
    holdsHeld: () => active() === held,
    standing: () => held?.value ?? "",
    // assign gives a control that has no typing of its own its value, as its picker would.
    assign(value = "") {
      const proto = Object.getPrototypeOf(held)
      Object.getOwnPropertyDescriptor(proto, "value").set.call(held, value)
      told(held)
      return held.value
    },
    // choose picks a list's options; it returns the values that are not offered.
    choose(values = []) {
      const options = [...held.options]
      const missing = values.filter((v) => !options.some((o) => o.value === v && !o.disabled))
      if (missing.length > 0) return missing
      if (held.multiple) for (const o of options) o.selected = values.includes(o.value)
      else if (values.length > 0) held.selectedIndex = options.findIndex((o) => o.value === values[0] && !o.disabled)
      told(held)
      return []
    },
    // button says where to click to set a radio button or checkbox.
    async button(name, value = "") {
      const list = named(name)
      const e = list.find((c) => c.value === value) ?? (list.length === 1 && value === "" ? list[0] : null)
      if (!e) return null
      await goFrom(e)
      held = e
      const target = shown(e) && pointAt(e).reached ? e : ([...(e.labels ?? [])].find(shown) ?? e)
      return { ...described(e), ...pointAt(target) }
    },
    buttons: (name) => named(name).map((e) => ({ ...described(e) })),
    clickHeld() {
      held.click()
    },
    // find takes a control in hand that has no name of its own, by its role and label.
    async find(name) {
      const e = found(name)
      if (e) await goFrom(e)
      return e ? aimed(e) : null
    },
    again: () => (held?.isConnected ? aimed(held) : null),
    // choice is one of what can be chosen in the element in hand, which stays there.
    choice(value = "", label = "") {
      const e = choice(held, value, label)
      if (!e) return null
      const group = held
      const target = visible(e) && pointAt(e).reached ? e : ([...(e.labels ?? [])].find(visible) ?? e)
      const out = { ...aimed(e), ...pointAt(target) }
      held = group
      return out
    },
    clickChoice(value = "", label = "") {
      choice(held, value, label)?.click()
    },
    anyChosen: () => choicesIn(held).some(chosen),
    // option finds a shown option by its value or text.
    option(value = "", label = "") {
      const list = gather(document, '[role="option"], [role="menuitemradio"]').filter(shown)
      const e = list.find((o) => value !== "" && (o.dataset.value === value || o.getAttribute("value") === value)) ?? list.find((o) => squash(o.textContent) === squash(label))
      return e ? aimed(e) : null
    },
    // month is the one that an open calendar shows, from 0; null where none is open.
    month() {
      const shown = calendar()
      return shown ? { year: shown.year, month: shown.month } : null
    },
    turn(later) {
      const shown = calendar()
      const e = later ? shown?.after : shown?.before
      return e ? aimed(e) : null
    },
    day(day) {
      const shown = calendar()
      const e = shown ? dayIn(shown, day) : null
      return e ? aimed(e) : null
    },
    // press finds what can be pressed by its name: a button, a link, a tab.
    press(name) {
      const list = gather(document, 'button, a[href], input[type="submit"], input[type="button"], input[type="image"], summary, [role="button"], [role="link"], [role="tab"], [role="menuitem"]').filter(shown)
      const wanted = squash(name)
      const e = list.find((b) => labelOf(b) === wanted) ?? list.find((b) => squash(b.textContent) === wanted) ?? list.find((b) => labelOf(b).toLowerCase() === wanted.toLowerCase())
      if (e) pressed = e
      return e ? aimed(e) : null
    },
    // storage sets what the page keeps in the browser, where it is given, and tells what that is.
    storage(items) {
      const read = (from) => Object.fromEntries(Object.keys(from).map((key) => [key, from.getItem(key)]))
      for (const [key, value] of Object.entries(items?.local ?? {})) localStorage.setItem(key, value)
      for (const [key, value] of Object.entries(items?.session ?? {})) sessionStorage.setItem(key, value)
      return { local: read(localStorage), session: read(sessionStorage) }
    },
    // opener is one of the controls that open a list or a calendar: a field, as it has a label, and no button that does something.
    opener(i) {
      openers ??= gather(document, 'button[aria-haspopup], [role="combobox"]:not(select)').filter((e) => shown(e) && labelled(e) && !e.closest('nav, header, [role="menubar"], [role="navigation"]'))
      const e = openers[i]
      return e?.isConnected ? aimed(e) : null
    },
    // inside keeps what an opener that was pressed has opened.
    inside(i) {
      const options = gather(document, '[role="option"]').filter(shown)
      if (options.length > 0) inside.set(openers[i], { options: options.slice(0, 500).map((o) => ({ label: squash(o.textContent), value: o.dataset.value ?? o.getAttribute("value") ?? "" })) })
      else if (calendar()) inside.set(openers[i], { calendar: true })
    },
    // complains tells whether a control of the form is said to be wrong.
    complains: () => [...document.querySelectorAll('[aria-invalid="true"], [role="alert"]')].some((e) => shown(e) && (e.getAttribute("role") !== "alert" || squash(e.textContent) !== "")),
    // has tells whether a control of a field is on the page and shown.
    has(name) {
      const e = named(name)[0] ?? found(name)
      return Boolean(e && visible(e))
    },
    focusHeld() {
      held.focus()
      held.select?.()
    },
    inHand: () => held,
    // leave leaves the field that has the focus.
    leave() {
      active()?.blur()
    },
    relax() {
      const form = formUnderTest()
      if (form) form.noValidate = true
      for (const e of controlsOf()) e.removeAttribute("maxlength")
    },
    async submitter() {
      await goFrom(null)
      const form = formUnderTest()
      const list = controlsOf().filter((e) => (e.type === "submit" || e.type === "image") && !marks.has(e) && !["switch", "checkbox", "radio", "combobox"].includes(roleOf(e)))
      const e = list.find(shown) ?? list[0] ?? (form ? null : looseButton())
      if (!e) return null
      held = pressed = e
      return { ...described(e), ...pointAt(e), text: squash(e.textContent) || e.value }
    },
    request() {
      formUnderTest()?.requestSubmit()
    },
    focused: () => {
      const e = active()
      if (!e || e === document.body) return ""
      for (let n = e; n; n = parentOf(n)) if (marks.has(n)) return marks.get(n)
      return (e.name ?? "") || `#${e.id || e.tagName.toLowerCase()}`
    },
    // adopt takes a closed shadow root in.
    adopt(root) {
      if (closed.has(root.host)) return
      closed.set(root.host, root)
      observe(root)
      root.addEventListener("invalid", refused, true)
    },
    // seen is null where closed shadow roots are first to be looked for, and says so where the document is not parsed to its end.
    seen(looked, list) {
      if (list || fields.length > 0) know(list)
      if (document.readyState === "loading") return { loading: true }
      if (!looked && mayHide()) return null
      if (due !== 0) {
        clearTimeout(due)
        shoot()
      }
      const out = { html: snapshot(), holdsForm: formUnderTest() !== null || marks.size > 0 || all(document).some((e) => names.has(nameOf(e))), address: location.href, shots, invalid, focused: oddtick.focused(), stuck: pressed !== null && pressed.isConnected && (pressed.disabled || pressed.getAttribute("aria-disabled") === "true"), height: document.documentElement?.scrollHeight ?? 0 }
      shots = []
      return out
    },
    // quiet resolves once nothing has changed for so many milliseconds, or after the longest time; a document that is not parsed to its
    // end has until the last time.
    quiet: (still, longest, last = longest) =>
      new Promise((done) => {
        const from = performance.now()
        lastChange = Math.max(lastChange, from)
        const look = () => {
          const now = performance.now()
          const rest = lastChange + still - now
          if ((rest <= 0 && document.readyState === "complete") || now - from >= (document.readyState === "loading" ? Math.max(longest, last) : longest)) done(true)
          else setTimeout(look, Math.max(5, Math.min(rest, 25)))
        }
        look()
      }),
  }
})()
