package expression

import (
	"crypto/md5" // #nosec G501 -- sites make addresses of pictures of it, and nothing is kept secret by it here
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"math"
	"reflect"
	"strings"
	"time"

	"cel.dev/cel-go/cel"
	"cel.dev/cel-go/common/types"
	"cel.dev/cel-go/common/types/ref"
)

// maxText is how long a text may become that an expression makes, in bytes.
const maxText = 1 << 16

// dayLayout is how a day is written, and maxDays how many can be added to one. maxCents is how large an amount may be.
const (
	dayLayout = "2006-01-02"
	maxDays   = 1_000_000
	maxCents  = 1 << 52 // beyond which a double does not tell one from the next
)

// Functions are those on texts that expressions may call besides CEL's own. Positions count characters, from 0.
func Functions() []cel.EnvOption {
	text, texts := cel.StringType, cel.ListType(cel.StringType)
	tooLong := types.NewErr("the expression makes a text of more than %d bytes", maxText)
	made := func(s string) ref.Val {
		if len(s) > maxText {
			return tooLong
		}
		return types.String(s)
	}
	on := func(name string, args []*cel.Type, result *cel.Type, do func(args ...ref.Val) ref.Val) cel.EnvOption {
		return cel.Function(name, cel.MemberOverload(fmt.Sprint("text_", name, "_", len(args)), args, result, cel.FunctionBinding(do)))
	}
	plain := func(name string, do func(string) string) cel.EnvOption {
		return on(name, []*cel.Type{text}, text, func(args ...ref.Val) ref.Val { return made(do(asText(args[0]))) })
	}
	return []cel.EnvOption{
		cel.Function("today", cel.Overload("today", nil, text, cel.FunctionBinding(func(...ref.Val) ref.Val { return types.String(time.Now().Format(dayLayout)) }))),
		on("plus_days", []*cel.Type{text, cel.IntType}, text, func(args ...ref.Val) ref.Val {
			day, err := time.Parse(dayLayout, asText(args[0]))
			n := int64(args[1].(types.Int))
			if err != nil || n > maxDays || n < -maxDays {
				return types.NewErr("plus_days is for a day such as 2026-04-01")
			}
			return types.String(day.AddDate(0, 0, int(n)).Format(dayLayout))
		}),
		cel.Function("cents", cel.Overload("cents_double", []*cel.Type{cel.DoubleType}, cel.IntType, cel.UnaryBinding(func(v ref.Val) ref.Val {
			cents := math.Round(float64(v.(types.Double)) * 100)
			if math.Abs(cents) > maxCents || math.IsNaN(cents) {
				return types.NewErr("cents is for amounts of at most %d cents", int64(maxCents))
			}
			return types.Int(cents)
		}))),
		plain("sha256", func(s string) string { sum := sha256.Sum256([]byte(s)); return hex.EncodeToString(sum[:]) }),
		plain("md5", func(s string) string {
			sum := md5.Sum([]byte(s)) // #nosec G401 -- as above
			return hex.EncodeToString(sum[:])
		}),
		plain("lower", strings.ToLower), plain("upper", strings.ToUpper), plain("trim", strings.TrimSpace),
		on("replace", []*cel.Type{text, text, text}, text, func(args ...ref.Val) ref.Val {
			if asText(args[1]) == "" {
				return types.NewErr("replace needs a text to look for")
			}
			s, was, is := asText(args[0]), asText(args[1]), asText(args[2])
			if len(s)+strings.Count(s, was)*(len(is)-len(was)) > maxText { // before it is made
				return tooLong
			}
			return made(strings.ReplaceAll(s, was, is))
		}),
		on("split", []*cel.Type{text, text}, texts, func(args ...ref.Val) ref.Val {
			return types.DefaultTypeAdapter.NativeToValue(strings.Split(asText(args[0]), asText(args[1])))
		}),
		on("join", []*cel.Type{texts, text}, text, func(args ...ref.Val) ref.Val {
			list, err := args[0].ConvertToNative(stringsType)
			if err != nil {
				return types.NewErr("join is for a list of texts")
			}
			parts, between := list.([]string), asText(args[1])
			length := len(between) * len(parts)
			for _, part := range parts {
				length += len(part)
			}
			if length > maxText+len(between) {
				return tooLong
			}
			return made(strings.Join(parts, between))
		}),
		on("substring", []*cel.Type{text, cel.IntType, cel.IntType}, text, func(args ...ref.Val) ref.Val {
			runes := []rune(asText(args[0]))
			from, to := int64(args[1].(types.Int)), int64(args[2].(types.Int))
			n := int64(len(runes))
			from, to = min(max(from, 0), n), min(max(to, 0), n)
			if from > to {
				from = to
			}
			return made(string(runes[from:to]))
		}),
	}
}

var stringsType = reflect.TypeFor[[]string]()

func asText(v ref.Val) string {
	s, _ := v.Value().(string)
	return s
}
