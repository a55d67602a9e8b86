package hashed

import "regexp"

// kinds are the forms that salted hashes are written in, the slow ones first.
var kinds = []struct {
	name string
	form *regexp.Regexp
	slow bool
}{
	{"argon2id", regexp.MustCompile(`^\$argon2id\$`), true},
	{"argon2i", regexp.MustCompile(`^\$argon2i\$`), true},
	{"argon2d", regexp.MustCompile(`^\$argon2d\$`), true},
	{"bcrypt", regexp.MustCompile(`^(?:\$wp)?\$2[abxy]?\$\d\d\$[./A-Za-z0-9]{53}$`), true},
	{"scrypt", regexp.MustCompile(`^(\$7\$|\$scrypt\$|scrypt:|SCRYPT)`), true},
	{"yescrypt", regexp.MustCompile(`^\$y\$`), true},
	{"pbkdf2", regexp.MustCompile(`^(\$pbkdf2|pbkdf2[_:$])`), true},
	{"sha512-crypt", regexp.MustCompile(`^\$6\$`), true},
	{"sha256-crypt", regexp.MustCompile(`^\$5\$`), true},
	{"md5-crypt", regexp.MustCompile(`^\$(1|apr1)\$`), false},
	{"phpass", regexp.MustCompile(`^\$[PH]\$[./A-Za-z0-9]{31}$`), false},
	{"salted digest", regexp.MustCompile(`^\{SSHA(256|384|512)?\}|^(?:sha1|md5|sha256|sha512)\$[^$]+\$[0-9a-f]+$`), false},
}

// Kinds are the names of all kinds, the slow ones first.
func Kinds() []string {
	out := make([]string, len(kinds))
	for i, k := range kinds {
		out[i] = k.name
	}
	return out
}

// KindOf names the kind of a stored hash by its form, "" for none of them; slow tells whether guessing is made slow by it.
func KindOf(stored string) (name string, slow bool) {
	for _, k := range kinds {
		if k.form.MatchString(stored) {
			return k.name, k.slow
		}
	}
	return "", false
}
