package phrases

// Marks are the labels of ticks that are words, by their codes; every other label is a value, and stands as it is.
var Marks = Registered("mark.", map[string]string{
	"blank": "blank", "spaces": "spaces", "usual": "usual", "none": "none", "all": "all", "broken": "broken", "unknown": "unknown", "random": "random",
	"spaces around": "spaces around", "other capitals": "other capitals", "capitals only": "capitals only", "another": "another", "same": "same", "different": "different",
	"new": "new", "same moment": "same moment", "after": "after", "before": "before", "within": "within", "around": "around",
	"meets end": "from its end", "meets begin": "to its start", "own value": "own value", "another's": "another's",
	"no row": "no row", "a row": "a row", "not an option": "not an option", "a label": "a label", "checked": "checked", "not checked": "not checked", "name": "file name",
	"not sent": "not sent", "null": "null",

	"one fewer": "one fewer", "space": "space", "underscore": "underscore", "dot": "dot", "quote": "quote", "accent": "accent", "look alike": "look-alike",
	"other digit": "other digit", "digit": "digit", "letter": "letter", "capital": "capital", "small letter": "small letter", "emoji": "emoji", "letters only": "letters only",
	"digits only": "digits only", "signs only": "signs only", "more before": "more before", "more after": "more after", "fewer": "fewer", "more": "more", "ignoring case": "capitals ignored",

	"all blank": "all blank", "other method": "other method", "other type": "other type", "as lists": "as lists", "surplus": "extra parameters", "cut off": "truncated",
	"no object": "not an object", "empty body": "empty body", "without token": "without token", "foreign token": "another's token", "repeated": "sent twice", "after rejection": "corrected",
	"reload": "reload", "sent again": "sent again", "network lost": "network lost", "server error": "server error", "status 401": "status 401", "slow": "slow", "loaded again": "opened again", "back and forth": "back and forth",
	"same password": "same password", "same new password": "same new password",

	"same secret": "same secret", "other sessions": "other sessions", "onward": "wanted page", "onward elsewhere": "other site", "onward slashes": "two slashes", "onward backslash": "backslash",
	"onward backslashes": "two backslashes", "onward no slashes": "no slashes", "onward tab": "tab", "onward encoded": "encoded", "onward user": "name before @", "lock": "locked",

	"required": "required", "length": "length", "pattern": "pattern", "range": "range", "clock change": "clock change",
	"no leap year": "no leap year", "end of month": "end of month", "month 13": "month 13", "zeros": "zeros", "accents": "accents", "quotes": "quotes", "markup": "markup",
	"plus percent": "plus, percent", "sql quote": "SQL quote", "sql comment": "SQL comment", "script": "script", "attribute": "attribute", "formula": "formula", "at sign": "@",
	"right to left": "right to left", "ideographs": "ideographs", "family": "family emoji", "template": "template", "path": "path", "number text": "number as text", "null word": "the word null",
	"two spaces": "two spaces", "decimal comma": "decimal comma", "two points": "two points", "two signs": "two signs", "year 9999": "year 9999", "hour 24": "hour 24", "minute 60": "minute 60",
	"nul": "NUL", "control": "control character", "tab": "tab", "line end": "line end", "zero width": "zero width", "direction": "direction", "no break space": "no-break space", "combining": "combining",
})

// MarkVariants are what stands behind the label of a tick that is a value of another kind than its neighbours.
var MarkVariants = Registered("mark_variant.", map[string]string{"wide": "{label} wide", "trimmed": "{label} trimmed"})

// Scales are the names of scales by their codes; a scale of a field or a rule is called by its label or kind.
var Scales = Registered("scale.", map[string]string{
	"value": "value", "date": "date", "time": "time", "choice": "choice", "state": "state", "text": "text", "secret": "password", "type": "type", "size, bytes": "size, bytes",
	"length, characters": "length, characters", "length, bytes": "length, bytes", "length, utf-16_units": "length, UTF-16 units", "length, graphemes": "length, graphemes",
	"no number": "not a number", "no date": "not a date", "no time": "not a time", "corrected": "corrected", "guessed": "guessed", "random": "random", "requests": "requests",
	"session": "session", "by hand": "by hand", "singles": "single values", "pairs": "pairs", "triples": "triples", "quadruples": "quadruples", "quintuples": "quintuples", "sextuples": "sextuples", "replies": "replies", "when": "condition",
	"pattern": "pattern", "email": "e-mail", "url": "URL", "characters": "characters", "same_as": "same as", "different_from": "different from",
})
