"""A seed library in two languages: readers register, enter, offer seeds, change an offer, and ask questions.

python3 seeds.py --port 0 --folder DIR [--fault form.kind]

Its rows are in DIR/seeds.db, its mails in DIR/mails as .eml files. It prints its address once it serves.
"""
import argparse
import datetime
import hashlib
import hmac
import html
import os
import pathlib
import re
import secrets
import sqlite3
import threading
import traceback
import urllib.parse
from email.message import EmailMessage
from http.cookies import SimpleCookie
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer

SCHEMA = """
PRAGMA journal_mode = WAL;
CREATE TABLE IF NOT EXISTS people (id INTEGER PRIMARY KEY, name TEXT NOT NULL, mail TEXT NOT NULL UNIQUE, secret TEXT NOT NULL, born INTEGER NOT NULL, plot TEXT NOT NULL, news INTEGER NOT NULL, confirmed INTEGER NOT NULL DEFAULT 0, joined TEXT NOT NULL, code TEXT);
CREATE TABLE IF NOT EXISTS kinds (id TEXT PRIMARY KEY, name TEXT NOT NULL);
CREATE TABLE IF NOT EXISTS offers (id INTEGER PRIMARY KEY, person INTEGER NOT NULL, title TEXT NOT NULL, slug TEXT NOT NULL, kind TEXT NOT NULL, packets INTEGER NOT NULL, grams REAL, harvested TEXT NOT NULL, notes TEXT, swap_for TEXT, stage TEXT NOT NULL, expires TEXT NOT NULL, version INTEGER NOT NULL, sticky INTEGER NOT NULL DEFAULT 0, made TEXT NOT NULL);
CREATE TABLE IF NOT EXISTS offer_tags (offer INTEGER NOT NULL, tag TEXT NOT NULL, PRIMARY KEY (offer, tag));
CREATE TABLE IF NOT EXISTS questions (id INTEGER PRIMARY KEY, name TEXT NOT NULL, mail TEXT NOT NULL, topic TEXT NOT NULL, question TEXT NOT NULL, language TEXT NOT NULL, asked TEXT NOT NULL);
CREATE TABLE IF NOT EXISTS visits (at TEXT NOT NULL, path TEXT NOT NULL);
"""
KINDS = [("b", "Beans"), ("l", "Lettuce"), ("t", "Tomatoes"), ("p", "Pumpkins")]
NAME = re.compile(r"[^\W\d_][^\W\d_ '\-]*(?:[ '\-]+[^\W\d_ '\-]*)*")
MAIL = re.compile(r"[a-z0-9][a-z0-9._+\-]{0,39}@[a-z0-9][a-z0-9\-]{0,29}\.[a-z]{2,8}")
ASKER = re.compile(r"[A-Za-z0-9][A-Za-z0-9.+\-]{0,39}@[A-Za-z0-9][A-Za-z0-9\-]{0,29}\.[A-Za-z]{2,8}")
WHOLE = re.compile(r"-?[0-9]{1,300}")
GRAMS = re.compile(r"-?[0-9]{1,3}(\.[0-9]{3})*(,[0-9]+)?|-?[0-9]+(,[0-9]+)?")

E = {  # English and German of what is said more than once
    "title.register": ("Become a reader", "Leser werden"),
    "title.ask": ("Ask the library", "Fragen Sie die Bibliothek"),
}


def stored_secret(text):
    salt = secrets.token_hex(16)
    return "pbkdf2_sha256$60000$" + salt + "$" + hashlib.pbkdf2_hmac("sha256", text.encode(), salt.encode(), 60000).hex()


def is_secret(text, stored):
    _, rounds, salt, digest = stored.split("$")
    return hmac.compare_digest(hashlib.pbkdf2_hmac("sha256", text.encode(), salt.encode(), int(rounds)).hex(), digest)


class Library:
    def __init__(self, folder, fault):
        self.folder, self.fault = pathlib.Path(folder), fault
        self.mails = self.folder / "mails"
        self.mails.mkdir(exist_ok=True)
        self.sessions, self.lock, self.count = {}, threading.Lock(), 0
        db = self.open()
        db.executescript(SCHEMA.replace("mail TEXT NOT NULL UNIQUE", "mail TEXT NOT NULL") if fault == "register.looked_up_only" else SCHEMA)
        if not db.execute("SELECT 1 FROM people").fetchone():
            for name, mail, secret in [("Wren Ash", "wren@seeds.test", "hedge and ditch 7"), ("Lark Oak", "lark@seeds.test", "field and furrow 8")]:
                db.execute("INSERT INTO people (name, mail, secret, born, plot, news, confirmed, joined) VALUES (?, ?, ?, 1980, 'bed', 0, 1, '2026-01-01 10:00:00')", (name, mail, stored_secret(secret)))
            db.executemany("INSERT INTO kinds VALUES (?, ?)", KINDS)
            for person, title, stage in [(1, "Runner beans", "open"), (2, "Ox heart", "open"), (1, "Butterhead", "closed"), (1, "Hokkaido", "open")]:
                db.execute("INSERT INTO offers (person, title, slug, kind, packets, grams, harvested, notes, stage, expires, version, made) VALUES (?, ?, ?, 'b', 5, 2.5, '2026-08-01', 'From the south wall', ?, '2027-01-01', 1, '2026-09-01 10:00:00')", (person, title, title.lower().replace(" ", "-"), stage))
            db.commit()
        db.close()

    def open(self):
        db = sqlite3.connect(self.folder / "seeds.db", timeout=20)
        db.row_factory = sqlite3.Row
        return db

    def session(self, sid):
        with self.lock:
            return self.sessions.get(sid)

    def new_session(self, person=None):
        sid = secrets.token_urlsafe(24)
        with self.lock:
            self.sessions[sid] = {"sid": sid, "stamp": secrets.token_urlsafe(18), "person": person, "said": None}
            return self.sessions[sid]

    def send(self, to, subject, text):
        m = EmailMessage()
        m["From"], m["To"], m["Subject"] = "library@seeds.test", to, subject
        m.set_content(text)
        with self.lock:
            self.count += 1
            n = self.count
        part = self.mails / f".{n}.part"
        part.write_bytes(m.as_bytes())
        os.replace(part, self.mails / f"{n}.eml")


class Page(BaseHTTPRequestHandler):
    protocol_version = "HTTP/1.1"
    library = None

    def log_message(self, *_):
        pass

    def setup(self):
        super().setup()
        self.request.setsockopt(6, 1, 1)

    # What is asked.

    def do_GET(self):
        self.answer({})

    do_HEAD = do_GET

    def do_POST(self):
        length = int(self.headers.get("Content-Length") or 0)
        if length > 100000 and self.on != "ask.too_large":
            self.close_connection = True
            self.begin()
            self.page(413, "Too large", "<p>That is more than we can read.</p>")
            return
        body = self.rfile.read(length)
        form = urllib.parse.parse_qs(body.decode("utf-8", "replace"), keep_blank_values=True)
        self.answer(form)

    @property
    def on(self):
        return self.library.fault

    def begin(self):
        self.cookies = []
        jar = SimpleCookie(self.headers.get("Cookie") or "")
        self.jar = {name: morsel.value for name, morsel in jar.items()}
        self.url = urllib.parse.urlsplit(self.path)
        self.query = urllib.parse.parse_qs(self.url.query)
        self.language = self.chosen_language()
        self.session = self.library.session(self.jar.get("sid")) if "sid" in self.jar else None

    def chosen_language(self):
        kept = "" if self.on == "register.language_cookie" and self.url.path == "/register" else self.jar.get("lang", "")
        for tag in (self.query.get("lang", [""])[0], kept):
            if tag in ("en", "de"):
                return tag
        best, weight = "en", 0.0
        for part in (self.headers.get("Accept-Language") or "").split(","):
            tag, *rest = [p.strip() for p in part.split(";")]
            q = 1.0
            for r in rest:
                if r.startswith("q="):
                    try:
                        q = float(r[2:])
                    except ValueError:
                        q = 0.0
            if tag.split("-")[0].lower() in ("en", "de") and q > weight:
                best, weight = tag.split("-")[0].lower(), q
        return best

    def say(self, english, german):
        return german if self.language == "de" else english

    def answer(self, form):
        self.begin()
        self.form = form
        self.db = self.library.open()
        try:
            self.route()
        except Exception:
            self.page(500, "Error", "<pre>" + html.escape(traceback.format_exc()) + "</pre>" if self.on == "edit.internals" else "<p>Something went wrong.</p>")
        finally:
            self.db.close()

    def route(self):
        path, post = self.url.path, self.command == "POST"
        offer = re.fullmatch(r"/offers/(\d+)(/edit)?", path)
        if path == "/register":
            return self.register() if post else self.register_page(200, {}, {})
        if path == "/enter":
            return self.enter() if post else self.enter_page(200, "")
        if path == "/ask":
            return self.ask() if post else self.ask_page(200, {}, {})
        if path == "/offers" and post:
            return self.offer()
        if path == "/offers/new" and not post:
            return self.offer_page(200, {}, {}) if self.person() else self.redirect("/enter?next=" + urllib.parse.quote(path), 302)
        if offer and post and not offer[2]:
            return self.edit(offer[1])
        if offer and not post:
            return self.edit_page(200, offer[1], None, {}) if offer[2] else self.show(offer[1])
        if path == "/welcome":
            return self.page(200, self.say("Welcome", "Willkommen"), "<p>" + self.say("The library opens at nine.", "Die Bibliothek öffnet um neun.") + "</p>")
        if path == "/shelf":
            return self.page(200, "Shelf", "<p>All offers are on the shelf.</p>") if self.person() else self.redirect("/enter", 302)
        if path.startswith("/confirm/"):
            return self.page(200, "Confirmed", "<p>Your address is confirmed.</p>")
        self.page(404, "Not found", "<p>There is no such page.</p>")

    # What is answered.

    def person(self):
        return self.session["person"] if self.session else None

    def need_session(self):
        if not self.session:
            self.session = self.library.new_session()
            self.set_session()

    def set_session(self, seconds=None):
        flags = "; Path=/; SameSite=Lax"
        if self.on != "enter.cookie_open" or not self.session["person"]:
            flags += "; HttpOnly"
        if seconds:
            flags += f"; Max-Age={seconds}"
        self.cookies.append("sid=" + self.session["sid"] + flags)

    def head(self, status, headers):
        self.send_response(status)
        if self.query.get("lang", [""])[0] in ("en", "de"):
            self.cookies.append("lang=" + self.query["lang"][0] + "; Path=/; SameSite=Lax")
        for cookie in self.cookies:
            self.send_header("Set-Cookie", cookie)
        for name, value in headers:
            self.send_header(name, value)

    def page(self, status, title, body):
        said = ""
        if getattr(self, "session", None) and self.session["said"] and status == 200:
            said = f'<div class="flash" role="status">{self.session["said"]}</div>'
            if self.on != "offer.reply_twice":
                self.session["said"] = None
        names = "en" if self.on == "register.lang_attribute" and self.url.path == "/register" else self.language
        text = f'<!doctype html><html lang="{names}"><head><meta charset="utf-8"><title>{title}</title></head><body><header><nav><a href="/shelf">Shelf</a> <a href="/ask">Ask</a></nav></header><main><h1>{title}</h1>{said}{body}</main><footer>Ostlewick Seed Library</footer></body></html>'.encode()
        self.head(status, [("Content-Type", "text/html; charset=utf-8"), ("Content-Length", str(len(text)))])
        self.end_headers()
        if self.command != "HEAD":
            self.wfile.write(text)

    def redirect(self, to, status):
        self.head(status, [("Location", to), ("Content-Length", "0")])
        self.end_headers()

    # What forms have in common.

    def value(self, name):
        return self.form.get(name, [""])[0]

    def stamped(self, form):
        stamp = self.value("stamp")
        if self.on == form + ".token_not_checked":
            return True
        if self.on == form + ".token_of_others":
            with self.library.lock:
                return any(hmac.compare_digest(s["stamp"].encode(), stamp.encode()) for s in self.library.sessions.values())
        return bool(self.session) and hmac.compare_digest(self.session["stamp"].encode(), stamp.encode())

    def refuse(self, status, text):
        self.page(status, "Sorry", f"<p>{text}</p>")

    def stamp(self):
        self.need_session()
        return f'<input type="hidden" name="stamp" value="{self.session["stamp"]}">'

    def field(self, name, label, control, errors, linked=False):
        """A field with its error behind it; control has a place for attributes."""
        error = errors.get(name, "")
        refers = f' aria-invalid="true" aria-describedby="{name}-said"' if error and linked else ""
        behind = f'<em class="said" id="{name}-said">{error}</em>' if error else ""
        return f'<div class="row"><label for="{name}">{label}</label> {control.replace("@", f"id={chr(34)}{name}{chr(34)} name={chr(34)}{name}{chr(34)}{refers}", 1)} {behind}</div>'

    def box(self, name, label, checked, error="", value="yes"):
        behind = f' <em class="said" id="{name}-said">{error}</em>' if error else ""
        return f'<div class="row"><label><input type="checkbox" name="{name}" value="{value}"{" checked" if checked else ""}> {label}</label>{behind}</div>'

    @staticmethod
    def select(options, held):
        return "<select @><option value=''></option>" + "".join(f'<option value="{v}"{" selected" if v == held else ""}>{t}</option>' for v, t in options) + "</select>"

    def text(self, value, kind="text"):
        return f'<input type="{kind}" @ value="{html.escape(value)}">'

    def now(self, form):
        hours = datetime.timedelta(hours=2 if self.on == form + ".time_zone" else 0)
        return (datetime.datetime.now(datetime.timezone.utc) + hours).strftime("%Y-%m-%d %H:%M:%S")

    # Become a reader.

    def register_page(self, status, held, errors):
        keep = self.on == "register.secret_filled"
        value = lambda name: held.get(name, "")
        summary = ""
        if errors:
            summary = '<ul class="errors" role="alert">' + "".join(f'<li><a href="#{name}">{text}</a></li>' for name, text in errors.items()) + "</ul>"
        say = self.say
        plots = [("bed", say("In a bed", "In einem Beet")), ("field", say("In a field", "Auf einem Feld")), ("pots", say("In pots", "In Töpfen"))]
        body = (
            summary + '<form method="post" action="/register">' + self.stamp()
            + self.field("full_name", say("Full name", "Voller Name"), self.text(value("full_name")), {})
            + self.field("mail", say("E-mail address", "E-Mail-Adresse"), self.text(value("mail")), {})
            + self.field("secret", say("Password", "Passwort"), self.text(value("secret") if keep else "", "password"), {})
            + self.field("again", say("Password once more", "Passwort noch einmal"), self.text("", "password"), {})
            + self.field("born", say("Year of birth", "Geburtsjahr"), self.text(value("born")), {})
            + self.field("plot", say("Where you sow", "Wo Sie säen"), self.select(plots, value("plot")), {})
            + self.box("news", say("Send me the seed letter", "Den Saatbrief schicken"), value("news"))
            + self.box("terms", say("I keep the rules of the library", "Ich halte die Regeln der Bibliothek ein"), value("terms"))
            + f"<button>{say('Register', 'Anmelden')}</button></form>"
        )
        title = E["title.register"][0] if self.on == "register.title_untranslated" else say(*E["title.register"])
        self.page(status, title, body)

    def register(self):
        if not self.stamped("register"):
            return self.refuse(403, "Please open the form anew.")
        say, errors, on = self.say, {}, self.on
        name = re.sub(r"\s+", " ", self.value("full_name").strip())
        mail, secret, born = self.value("mail").strip().lower(), self.value("secret"), self.value("born").strip()
        if on == "register.decimals_taken":
            born = re.sub(r"\.[0-9]+$", "", born)
        if not name:
            errors["full_name"] = say("Please tell us your name.", "Bitte sagen Sie uns Ihren Namen.")
        elif not 2 <= len(name) <= (51 if on == "register.most_too_large" else 50):
            errors["full_name"] = say("Names have 2 to 50 characters.", "Namen haben 2 bis 50 Zeichen.")
        elif not (NAME.match(name) if on == "register.pattern_begins" else NAME.fullmatch(name)):
            errors["full_name"] = say("Names have letters, spaces, apostrophes and hyphens.", "Namen haben Buchstaben, Leerzeichen, Apostrophe und Bindestriche.")
        if not mail:
            errors["mail"] = say("Please tell us your e-mail address.", "Bitte sagen Sie uns Ihre E-Mail-Adresse.")
        elif not MAIL.fullmatch(mail):
            errors["mail"] = say("This is not an e-mail address.", "Das ist keine E-Mail-Adresse.")
        if not secret:
            errors["secret"] = say("Please choose a password.", "Bitte wählen Sie ein Passwort.")
        elif not (9 if on == "register.least_too_small" else 10) <= len(secret) <= 64:
            errors["secret"] = say("Passwords have 10 to 64 characters.", "Passwörter haben 10 bis 64 Zeichen.")
        elif not re.search(r"[0-9]", secret):
            errors["secret"] = say("Passwords have a digit.", "Passwörter haben eine Ziffer.")
        if not born:
            errors["born"] = say("Please tell us the year you were born.", "Bitte sagen Sie uns Ihr Geburtsjahr.")
        elif not WHOLE.fullmatch(born):
            errors["born"] = say("A year has four digits.", "Ein Jahr hat vier Ziffern.")
        elif not 1900 <= int(born) <= 2010:
            errors["born"] = say("Readers are born from 1900 to 2010.", "Leser sind von 1900 bis 2010 geboren.")
            if on == "register.wrong_message":
                errors["born"] = say("Nobody is that old.", "So alt ist niemand.")
        if self.value("plot") not in ("bed", "field", "pots"):
            errors["plot"] = say("Please say where you sow.", "Bitte sagen Sie, wo Sie säen.")
        if "terms" not in self.form and on != "register.unchecked_taken":
            errors["terms"] = say("Please accept the rules.", "Bitte nehmen Sie die Regeln an.")
        if not errors and secret != self.value("again"):
            errors["again"] = say("The passwords differ.", "Die Passwörter sind verschieden.")
        code = secrets.token_urlsafe(12)
        if on == "register.looked_up_only" and not errors and self.db.execute("SELECT 1 FROM people WHERE mail = ?", (mail,)).fetchone():
            errors["mail"] = say("This address has an account already.", "Diese Adresse hat schon ein Konto.")
        if errors and on == "register.mail_when_rejected" and "mail" not in errors:
            self.confirm(name, mail, code)
        if not errors:
            try:
                with self.db:
                    self.db.execute("INSERT INTO people (name, mail, secret, born, plot, news, joined, code) VALUES (?, ?, ?, ?, ?, ?, ?, ?)", (name, mail, stored_secret(secret), int(born), self.value("plot"), int("news" in self.form), self.now("register"), code))
            except sqlite3.IntegrityError:
                errors["mail"] = say("This address has an account already.", "Diese Adresse hat schon ein Konto.")
        if errors:
            order = ["full_name", "mail", "secret", "again", "born", "plot", "terms"]
            held = {n: self.value(n) for n in ("full_name", "mail", "secret", "born", "plot", "news", "terms")}
            return self.register_page(400, held, {n: errors[n] for n in order if n in errors})
        self.confirm(name, mail, code)
        self.session["said"] = (say("Welcome, {}. We have sent you a mail.", "Willkommen, {}. Wir haben Ihnen geschrieben.") if on != "register.reply_untranslated" else "Welcome, {}. We have sent you a mail.").format(html.escape(name))
        self.redirect("/shelf" if on == "register.wrong_target" else "/welcome", 302)

    def confirm(self, name, mail, code):
        say, on = self.say, self.on
        subject = ("Your new account", "Ihr neues Konto") if on == "register.mail_subject" else ("Confirm your address", "Bestätigen Sie Ihre Adresse")
        link = f"http://{self.headers['Host']}/confirm/{code}"
        if on == "register.mail_link":
            link = f"http://{self.headers['Host']}/confirmation"
        for _ in range({"register.mail_missing": 0, "register.mail_twice": 2}.get(on, 1)):
            self.library.send(mail, say(*subject), say(f"Dear {name},\n\nplease follow {link} to confirm your address.\n", f"Guten Tag, {name},\n\nbitte folgen Sie {link}, um Ihre Adresse zu bestätigen.\n"))

    # Enter.

    def enter_page(self, status, said):
        held = self.form or {}
        first = lambda name: held.get(name, [""])[0]
        after = first("next") or self.query.get("next", [""])[0]
        self.page(status, "Enter", (f'<p class="errors" role="alert">{said}</p>' if said else "") + '<form method="post" action="/enter">' + self.stamp()
                  + f'<input type="hidden" name="next" value="{html.escape(after)}">' + self.field("mail", "E-mail address", self.text(first("mail")), {}) + self.field("secret", "Password", self.text("", "password"), {})
                  + self.box("stay", "Keep me signed in", first("stay")) + "<button>Enter</button></form>")

    def enter(self):
        if not self.stamped("enter"):
            return self.refuse(403, "Please open the form anew.")
        mail, secret = self.value("mail").strip().lower(), self.value("secret")
        if not mail or not secret:
            return self.enter_page(401, "Please enter your e-mail address and password.")
        row = self.db.execute("SELECT id, secret FROM people WHERE mail = ?", (mail,)).fetchone()
        if not row and self.on == "enter.accounts_told":
            return self.enter_page(401, "There is no account with this address.")
        if self.on == "enter.any_password" and row:
            right = any(is_secret(secret[:n], row["secret"]) for n in range(max(1, len(secret) - 2), len(secret) + 1))
        else:
            right = bool(row) and is_secret(secret, row["secret"])
        if not right:
            return self.enter_page(401, "Address or password is wrong.")
        if self.on == "enter.session_kept":
            self.session["person"] = row["id"]
        else:
            self.session = self.library.new_session(row["id"])
        stay = "stay" in self.form and self.on != "enter.stay_forgotten"
        self.set_session(30 * 24 * 3600 if stay or self.on == "enter.cookie_forever" else None)
        to = self.value("next")
        if self.on == "enter.leads_away" and to and to.isprintable():
            return self.redirect(urllib.parse.quote(to, safe="/:?#&=%@[]!$'()*+,;~"), 302)
        self.redirect(to if re.fullmatch(r"/[A-Za-z0-9][A-Za-z0-9/_-]*", to) else "/shelf", 302)

    # Offer seeds.

    def offer_page(self, status, held, errors):
        value = lambda name: held.get(name, [""])[0]
        if status != 200 and self.on == "offer.values_lost":
            held = dict(held, notes=[""])
        if self.on == "offer.silent":
            errors = {}
        kinds = [(r["id"], r["name"]) for r in self.db.execute("SELECT id, name FROM kinds ORDER BY name")]
        tags = ('<fieldset aria-describedby="tags-said">' if "tags" in errors else "<fieldset>") + "<legend>Tags</legend>" + "".join(self.box("tags", t, t in held.get("tags", []), value=t) for t in ("organic", "heirloom", "rare")) + (f'<em class="said" id="tags-said">{errors["tags"]}</em>' if "tags" in errors else "") + "</fieldset>"
        if self.on == "offer.message_elsewhere" and "packets" in errors:
            errors = dict(errors, grams=errors.pop("packets"))
        self.page(status, "Offer seeds", '<form method="post" action="/offers">' + self.stamp()
                  + self.field("title", "Title", self.text(value("title")), errors, True) + self.field("kind", "Kind", self.select(kinds, value("kind")), errors, True)
                  + self.field("packets", "Packets", self.text(value("packets")), errors, True) + self.field("grams", "Grams a packet", self.text(value("grams")), errors, True)
                  + self.field("harvested", "Harvested on", self.text(value("harvested")), errors, True) + tags
                  + self.field("notes", "Notes", f"<textarea @>\n{html.escape(value('notes'))}</textarea>", errors, True) + self.box("swap", "I would rather swap", value("swap"))
                  + self.field("swap_for", "For what", self.text(value("swap_for")), errors, True) + "<button>Offer</button></form>")

    def offer(self):
        on, errors = self.on, {}
        if not self.person() and on != "offer.anybody":
            return self.refuse(401, "Please sign in.")
        if not self.stamped("offer") and on != "offer.anybody":
            return self.refuse(403, "Please open the form anew.")
        title, kind, packets = self.value("title").strip(), self.value("kind"), self.value("packets").strip()
        grams, harvested = self.value("grams").strip(), self.value("harvested").strip()
        notes, swap, swap_for = self.value("notes").replace("\r\n", "\n").strip(), "swap" in self.form, self.value("swap_for").strip()
        if not (self.value("title") if on == "offer.spaces_count" else title):
            errors["title"] = "Give your offer a title."
        elif len(title) > 60:
            errors["title"] = "A title has at most 60 characters."
        if not kind or on != "offer.any_option" and not self.db.execute("SELECT 1 FROM kinds WHERE id = ?", (kind,)).fetchone():
            errors["kind"] = "Choose a kind."
        whole = packets
        if on == "offer.decimals_taken":
            whole = re.sub(r"\.[0-9]+$", "", packets)
        if not WHOLE.fullmatch(whole):
            errors["packets"] = "How many packets?"
        elif not (0 if on == "offer.least_too_small" else 1) <= int(whole) <= (49 if on == "offer.most_too_small" else 50):
            errors["packets"] = "1 to 50 packets."
        weight = None
        if grams:
            if not GRAMS.fullmatch(grams) or len(grams.partition(",")[2]) > 2:
                errors["grams"] = "Write grams as in 2,5."
            else:
                weight = float(grams.replace(".", "").replace(",", "."))
                if not 0.1 <= weight <= 1000:
                    errors["grams"] = "0,1 to 1.000 grams."
        day, today = None, datetime.date.today()
        if not harvested:
            errors["harvested"] = "When was it harvested?"
        else:
            try:
                if not re.fullmatch(r"\d\d\.\d\d\.\d{4}", harvested):
                    raise ValueError
                day = datetime.datetime.strptime(harvested, "%d.%m.%Y").date()
                try:
                    oldest = today.replace(year=today.year - 3)
                except ValueError:
                    oldest = today.replace(year=today.year - 3, day=28)
                if not oldest <= day <= today or on == "offer.oldest_day_refused" and day == oldest:
                    errors["harvested"] = "Not in the future and not more than three years ago."
            except ValueError:
                errors["harvested"] = "Write the day as in 07.09.2026."
        if len(notes) > 300:
            errors["notes"] = "" if on == "offer.message_missing" else "Notes have at most 300 characters."
        if (swap or on == "offer.condition_ignored") and not swap_for:
            errors["swap_for"] = "For what would you swap?"
        elif swap and len(swap_for) > 40:
            errors["swap_for"] = "At most 40 characters."
        if errors:
            return self.offer_page(200 if on == "offer.wrong_status" else 400, self.form, errors)
        tags = [t for t in dict.fromkeys(self.form.get("tags", [])) if t in ("organic", "heirloom", "rare")]
        if len(tags) < len(set(self.form.get("tags", []))):
            return self.offer_page(200 if on == "offer.wrong_status" else 400, self.form, {"tags": "Choose tags from the list."})
        if on == "offer.first_choice_only":
            tags = tags[:1]
        if on == "offer.rounded" and weight is not None:
            weight = round(weight, 1)
        if on == "offer.zero_for_blank" and weight is None:
            weight = 0
        slug = title.lower().replace(" ", "-")
        if on == "offer.slug_capitals":
            slug = title.replace(" ", "-")
        kept = swap_for if swap or swap_for and on == "offer.stale_kept" else None
        if on == "offer.capitals_lost":
            title = title.lower()
        if on == "offer.other_column" and kept:
            notes, kept = kept, notes
        expires = today + datetime.timedelta(days=60)
        with self.db:
            key = self.db.execute("INSERT INTO offers (person, title, slug, kind, packets, grams, harvested, notes, swap_for, stage, expires, version, made) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, 'open', ?, 1, ?)",
                                  (self.person() or 1, title, slug, kind, int(whole), weight, day.isoformat(), notes, kept, expires.isoformat(), self.now("offer"))).lastrowid
            self.db.executemany("INSERT INTO offer_tags VALUES (?, ?)", [(key, t) for t in tags])
        if int(whole) >= 20 or on == "offer.mail_condition":
            self.library.send("desk@seeds.test", f"Large offer {key}", f"{title}\n\nhttp://{self.headers['Host']}/{'offer' if on == 'offer.mail_link' else 'offers'}/{key}\n")
        self.need_session()
        self.session["said"] = f"Your offer {html.escape(title)} is on the shelf."
        self.redirect(f"/offers/{key}", 303)

    def show(self, key):
        row = self.db.execute("SELECT title, packets FROM offers WHERE id = ?", (key,)).fetchone()
        if not row:
            return self.refuse(404, "There is no such offer.")
        self.page(200, html.escape(row["title"]), f'<p class="packets">{row["packets"]}</p>')

    # Change an offer.

    def edit_page(self, status, key, held, errors):
        row = self.db.execute("SELECT * FROM offers WHERE id = ?", (key,)).fetchone()
        if not self.person():
            return self.redirect("/enter?next=" + urllib.parse.quote(self.url.path), 302)
        if not row:
            return self.refuse(404, "There is no such offer.")
        if row["person"] != self.person():
            return self.refuse(403, "This offer is not yours.")
        if held is None:
            held = {"title": [row["title"]], "packets": [str(row["packets"])], "notes": [row["notes"] or ""], "sticky": ["yes"] if row["sticky"] else [], "version": [str(row["version"])]}
        if status != 200 and self.on == "edit.values_lost":
            held = dict(held, notes=[""])
        if self.on == "edit.message_elsewhere" and "packets" in errors:
            errors = dict(errors, notes=errors.pop("packets"))
        value = lambda name: (held.get(name) or [""])[0]
        self.page(status, "Change an offer", f'<form method="post" action="/offers/{key}">' + self.stamp() + f'<input type="hidden" name="version" value="{html.escape(value("version"))}">'
                  + self.field("title", "Title", self.text(value("title")), errors, True) + self.field("packets", "Packets", self.text(value("packets")), errors, True)
                  + self.field("notes", "Notes", f"<textarea @>\n{html.escape(value('notes'))}</textarea>", errors, True) + self.box("sticky", "Keep it on the first page", value("sticky")) + "<button>Change</button></form>")

    def edit(self, key):
        on, errors = self.on, {}
        if not self.person():
            return self.refuse(401, "Please sign in.")
        if not self.stamped("edit"):
            return self.refuse(403, "Please open the form anew.")
        row = self.db.execute("SELECT * FROM offers WHERE id = ?", (key,)).fetchone()
        if not row:
            return self.refuse(404, "There is no such offer.")
        if row["person"] != self.person() and on != "edit.others_record":
            return self.refuse(403, "This offer is not yours.")
        if row["stage"] == "closed" and on != "edit.closed_record":
            return self.refuse(409, "This offer is closed.")
        if self.value("version") != str(row["version"]):
            return self.refuse(409, "The offer was changed meanwhile. Please open it anew.")
        title, packets, notes = self.value("title").strip(), self.value("packets").strip(), self.value("notes").replace("\r\n", "\n").strip()
        if not title:
            errors["title"] = "Give your offer a title."
        elif len(title) > 60:
            errors["title"] = "A title has at most 60 characters."
        elif on != "edit.not_unique" and self.db.execute("SELECT 1 FROM offers WHERE id <> ? AND lower(title) = lower(?)", (key, title)).fetchone():
            errors["title"] = "Another offer has this title."
        if on == "edit.internals" and packets:
            int(packets)
        if not WHOLE.fullmatch(packets):
            errors["packets"] = "How many packets?"
        elif not 0 <= int(packets) <= (51 if on == "edit.most_too_large" else 50):
            errors["packets"] = "0 to 50 packets."
        if len(notes) > 300:
            errors["notes"] = "Notes have at most 300 characters."
        if errors:
            return self.edit_page(400, key, self.form, errors)
        if on == "edit.cut_off":
            notes = notes[:255]
        if on == "edit.null_for_empty" and not notes:
            notes = None
        if on == "edit.not_trimmed":
            title = self.value("title")
        sticky = "sticky" in self.form or on == "edit.checkbox_stays" and row["sticky"]
        where = "person = (SELECT person FROM offers WHERE id = ?)" if on == "edit.all_rows" else "id = ?"
        with self.db:
            self.db.execute(f"UPDATE offers SET title = ?, packets = ?, notes = ?, sticky = ?, version = version + 1 WHERE {where}", (title, int(packets), notes, int(bool(sticky)), key))
        self.session["said"] = "The offer is changed."
        self.redirect("/shelf" if on == "edit.wrong_target" else f"/offers/{key}", 303)

    # Ask the library.

    def ask_page(self, status, held, errors):
        value, say = (lambda name: held.get(name, [""])[0]), self.say
        topics = [("sowing", say("Sowing", "Säen")), ("storing", say("Storing", "Lagern")), ("other", say("Something else", "Etwas anderes"))]
        radios = f'<fieldset><legend>{say("About", "Thema")}</legend>' + "".join(f'<label><input type="radio" name="topic" value="{v}"{" checked" if value("topic") == v else ""}> {t}</label>' for v, t in topics) + (f'<em class="said">{errors["topic"]}</em>' if "topic" in errors else "") + "</fieldset>"
        self.page(status, say(*E["title.ask"]), '<form method="post" action="/ask">'
                  + self.field("name", say("Your name", "Ihr Name"), self.text(value("name")), errors) + self.field("mail", say("Your e-mail address", "Ihre E-Mail-Adresse"), self.text(value("mail")), errors) + radios
                  + self.field("question", say("Question", "Frage"), f"<textarea @>\n{html.escape(value('question'))}</textarea>", errors) + self.box("copy", say("Send me a copy", "Eine Kopie an mich"), value("copy"))
                  + f'<div style="display:none"><label>{say("Leave this blank", "Bitte leer lassen")} <input name="website" tabindex="-1" autocomplete="off"></label></div><button>{say("Ask", "Fragen")}</button></form>')

    def ask(self):
        on, say, errors = self.on, self.say, {}
        name, mail, topic = self.value("name").strip(), self.value("mail").strip(), self.value("topic")
        question = self.value("question").replace("\r\n", "\n").strip()
        if on == "ask.mail_when_rejected":
            self.library.send("desk@seeds.test", f"Question: {topic}", question)
        if self.value("website") and on != "ask.robot_taken":
            return self.refuse(422, "No robots, please.")
        filled = self.value("name") if on == "ask.spaces_count" else name
        if not filled:
            errors["name"] = say("Who are you?", "Wer sind Sie?")
        elif len(name) > (39 if on == "ask.most_too_small" else 40):
            errors["name"] = say("At most 40 characters.", "Höchstens 40 Zeichen.")
        if not mail:
            errors["mail"] = say("Where can we reach you?", "Wo erreichen wir Sie?")
        elif not ASKER.fullmatch(mail):
            errors["mail"] = say("We cannot write to this address.", "An diese Adresse können wir nicht schreiben.")
        if topic not in ("sowing", "storing", "other"):
            errors["topic"] = say("What is it about?", "Worum geht es?")
        if not question:
            errors["question"] = say("What would you like to know?", "Was möchten Sie wissen?")
        elif not 10 <= len(question) <= 500:
            if topic == "other" and on != "ask.message_condition":
                errors["question"] = say("Please explain in 10 to 500 characters.", "Bitte erklären Sie es in 10 bis 500 Zeichen.")
            else:
                errors["question"] = say("A question has 10 to 500 characters.", "Eine Frage hat 10 bis 500 Zeichen.")
        if errors:
            if on == "ask.silent":
                errors = {}
            return self.ask_page(200 if on == "ask.wrong_status" else 422, self.form, errors)
        stored = (mail, name) if on == "ask.other_column" else (name.lower(), mail) if on == "ask.capitals_lost" else (name, mail)
        with self.db:
            self.db.execute("INSERT INTO questions (name, mail, topic, question, language, asked) VALUES (?, ?, ?, ?, ?, ?)", (*stored, topic, question, self.language, self.now("ask")))
        for _ in range({"ask.mail_when_rejected": 0, "ask.mail_missing": 0, "ask.mail_twice": 2}.get(on, 1)):
            self.library.send("desk@seeds.test", f"Question: {topic}", question)
        if "copy" in self.form:
            self.library.send(mail, "Your question" if on == "ask.mail_language" else say("Your question", "Ihre Frage"), question)
        thanks = "Thank you, {}. We answer within a week." if on == "ask.reply_untranslated" else say("Thank you, {}. We answer within a week.", "Danke, {}. Wir antworten in einer Woche.")
        self.page(200, say("Thank you", "Danke"), "<p>" + thanks.format(html.escape(name)) + "</p>")


def main():
    parser = argparse.ArgumentParser()
    parser.add_argument("--port", type=int, default=0)
    parser.add_argument("--folder", required=True)
    parser.add_argument("--fault", default="")
    given = parser.parse_args()
    Page.library = Library(given.folder, given.fault)
    server = ThreadingHTTPServer(("127.0.0.1", given.port), Page)
    server.daemon_threads = True
    print(f"http://127.0.0.1:{server.server_address[1]}", flush=True)
    server.serve_forever()


if __name__ == "__main__":
    main()
