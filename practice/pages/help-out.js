// The Help out page: it draws its form, checks it, and replaces it by thanks.
(() => {
  const root = document.getElementById("help")
  const on = (name) => root.dataset.faults.split(" ").includes(name)
  const words = {
    en: {
      name: "Your name", phone: "Telephone", area: "Where", hours: "Hours a month", weekends: "Weekends too", send: "Offer help",
      thanks: (n) => `Thank you, ${n}. A steward will call you.`, offline: "The association cannot be reached. Please try again.",
      sayName: "Tell us your name.", sayLong: "Use at most 60 characters.", sayPhone: "Tell us your telephone number.", sayPhoneForm: "A telephone number has 11 digits.",
      sayArea: "Choose an area from the list.", sayHours: "Say how many hours you can give.", sayRange: "Give 1 to 10 whole hours.",
    },
    cy: {
      name: "Eich enw", phone: "Ffôn", area: "Ble", hours: "Oriau y mis", weekends: "Penwythnosau hefyd", send: "Cynnig help",
      thanks: (n) => `Diolch, ${n}. Bydd stiward yn eich ffonio.`, offline: "Ni ellir cyrraedd y gymdeithas. Ceisiwch eto.",
      sayName: "Dywedwch eich enw.", sayLong: "Defnyddiwch hyd at 60 nod.", sayPhone: "Rhowch eich rhif ffôn.", sayPhoneForm: "Mae gan rif ffôn 11 digid.",
      sayArea: "Dewiswch ardal o'r rhestr.", sayHours: "Sawl awr allwch chi ei rhoi?", sayRange: "Rhowch 1 i 10 awr gyfan.",
    },
  }[root.dataset.language]
  const areas = [...root.querySelectorAll("[data-area]")].map((e) => ({ code: e.dataset.area, name: e.textContent }))

  const make = (tag, attributes = {}, ...children) => {
    const e = document.createElement(tag)
    for (const [name, value] of Object.entries(attributes)) e.setAttribute(name, value)
    e.append(...children)
    return e
  }
  const row = (name, control, ...more) => make("div", { class: "field" }, make("label", { for: name }, words[name]), control, ...more, make("p", { class: "error place", id: `${name}-error` }))
  const input = (name, type = "text") => make("input", { id: name, name, type, autocomplete: "off", "aria-describedby": `${name}-error` })

  const name = input("name")
  const phone = input("phone", "tel")
  const area = make("input", { id: "area", name: "area", role: "combobox", autocomplete: "off", "aria-expanded": "false", "aria-controls": "areas", "aria-describedby": "area-error" })
  const list = make("ul", { id: "areas", role: "listbox", class: "list", hidden: "" })
  const hours = input("hours", "text")
  const weekends = make("button", { type: "button", id: "weekends", role: "switch", "aria-checked": "false" }, words.weekends)
  const form = make("form", { novalidate: "" }, row("name", name), row("phone", phone), row("area", area, list), row("hours", hours), make("div", { class: "field" }, weekends), make("button", {}, words.send), make("p", { class: "error", role: "alert", id: "form-error", hidden: "" }))
  root.append(form)
  const kept = on("help-state-kept") && sessionStorage.getItem("thanks")
  if (kept) form.replaceWith(make("p", { role: "status" }, kept))

  const say = (field, text) => {
    const e = document.getElementById(`${field}-error`)
    e.textContent = text
    if (field === "form") e.hidden = text === ""
    const control = document.getElementById(field)
    if (control) control.setAttribute("aria-invalid", String(text !== ""))
  }

  // a telephone number is shown in groups and sent in digits
  const digits = () => phone.value.replace(/\D/g, "")
  phone.addEventListener("input", () => {
    const most = on("help-mask") ? 10 : 11
    const d = digits().slice(0, most)
    phone.value = [d.slice(0, 5), d.slice(5, 8), d.slice(8)].filter(Boolean).join(" ")
  })

  weekends.addEventListener("click", () => weekends.setAttribute("aria-checked", String(weekends.getAttribute("aria-checked") !== "true")))

  const chosen = () => areas.find((a) => a.name === area.value)
  const suggest = () => {
    const found = areas.filter((a) => a.name.toLowerCase().includes(area.value.trim().toLowerCase()))
    list.replaceChildren(...found.map((a) => {
      const o = make("li", { role: "option", "data-value": a.code }, a.name)
      o.addEventListener("mousedown", (e) => { e.preventDefault(); area.value = a.name; close(); left("area") })
      return o
    }))
    list.hidden = found.length === 0
    area.setAttribute("aria-expanded", String(!list.hidden))
  }
  const close = () => { list.hidden = true; area.setAttribute("aria-expanded", "false") }
  area.addEventListener("focus", suggest)
  area.addEventListener("input", suggest)

  const most = on("help-browser-strict") ? 40 : 60
  const wrong = {
    name: () => (name.value.trim() === "" ? words.sayName : [...name.value.trim()].length > most && !on("help-browser-lax") ? words.sayLong : ""),
    phone: () => (digits() === "" ? words.sayPhone : digits().length !== 11 ? words.sayPhoneForm : ""),
    area: () => (chosen() ? "" : words.sayArea),
    hours: () => (hours.value.trim() === "" ? words.sayHours : /^([1-9]|10)$/.test(hours.value.trim()) ? "" : words.sayRange),
  }
  const check = (field) => say(field, wrong[field]())
  // as one leaves a field
  const left = (field) => { if (!on("help-late") && !(on("help-stays") && wrong[field]() === "")) check(field) }
  for (const control of [name, phone, hours]) control.addEventListener("blur", () => left(control.id))
  area.addEventListener("blur", () => { close(); left("area") })

  form.addEventListener("submit", async (event) => {
    event.preventDefault()
    say("form", "")
    for (const field of Object.keys(wrong)) check(field)
    const first = Object.keys(wrong).find((field) => wrong[field]() !== "")
    if (first) { document.getElementById(first).focus(); return }
    if (on("help-script-error")) setTimeout(() => { undefined.send() }, 0)
    const button = form.querySelector("button:not([type])")
    if (!on("help-twice")) button.disabled = true
    try {
      const answer = await fetch("/help-out", {
        method: "POST", headers: { "Content-Type": "application/json" },
        body: JSON.stringify({ name: name.value, phone: digits(), area: chosen().code, hours: Number(hours.value), weekends: (weekends.getAttribute("aria-checked") === "true") !== on("help-switch") }),
      })
      const body = await answer.json()
      if (answer.status === 422) {
        for (const [field, texts] of Object.entries(body.errors)) say(field, texts.join(" "))
        button.disabled = false
        return
      }
      if (!answer.ok) throw new Error(body.error)
      const thanks = words.thanks(on("help-thanks") ? "" : body.name)
      if (on("help-state-kept")) sessionStorage.setItem("thanks", thanks)
      form.replaceWith(make("p", { role: "status" }, thanks))
    } catch {
      if (!on("help-network-silent")) say("form", words.offline)
      if (on("help-button-stuck")) return
      button.disabled = false
    }
  })
})()
