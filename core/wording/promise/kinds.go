package promise

import (
	"oddtick/core/prose"
	"oddtick/core/spec"
	"oddtick/core/wording/phrases"
)

var kinds = map[spec.Kind]phrases.Phrase{
	spec.Text: phrases.KindText, spec.Textarea: phrases.KindTextarea, spec.Email: phrases.KindEmail, spec.URL: phrases.KindURL, spec.Tel: phrases.KindTel, spec.Password: phrases.KindPassword,
	spec.Number: phrases.KindNumber, spec.Date: phrases.KindDate, spec.Time: phrases.KindTime, spec.DateTime: phrases.KindDateTime, spec.SingleChoice: phrases.KindSingleChoice,
	spec.MultipleChoice: phrases.KindMultipleChoice, spec.Checkbox: phrases.KindCheckbox, spec.Upload: phrases.KindFile, spec.Hidden: phrases.KindHidden, spec.Readonly: phrases.KindReadonly, spec.Honeypot: phrases.KindHoneypot,
}

// Kind is a field's kind in words.
func Kind(k spec.Kind) prose.Text { return kinds[k].Text() }

// KindPhrase is the phrase that names a field's kind.
func KindPhrase(k spec.Kind) phrases.Phrase { return kinds[k] }

var ruleKinds = map[spec.RuleKind]phrases.Phrase{
	spec.RuleRequired: phrases.RuleKindRequired, spec.RuleLength: phrases.RuleKindLength, spec.RulePattern: phrases.RuleKindPattern, spec.RuleCharacters: phrases.RuleKindCharacters,
	spec.RuleEmail: phrases.RuleKindEmail, spec.RuleURL: phrases.RuleKindURL, spec.RuleNumber: phrases.RuleKindNumber, spec.RuleRange: phrases.RuleKindRange,
	spec.RuleStep: phrases.RuleKindStep, spec.RuleDecimals: phrases.RuleKindDecimals, spec.RuleDate: phrases.RuleKindDate, spec.RuleTime: phrases.RuleKindTime,
	spec.RuleOneOfOptions: phrases.RuleKindOneOfOptions, spec.RuleMustBeChecked: phrases.RuleKindMustBeChecked, spec.RuleSameAs: phrases.RuleKindSameAs, spec.RuleDifferentFrom: phrases.RuleKindDifferentFrom,
	spec.RuleUnique: phrases.RuleKindUnique, spec.RuleFile: phrases.RuleKindFile, spec.RuleExistsIn: phrases.RuleKindExistsIn, spec.RuleMatchesSecret: phrases.RuleKindMatchesSecret,
	spec.RuleNoOverlap: phrases.RuleKindNoOverlap, spec.RuleAcross: phrases.RuleKindAcross,
}

// RuleKind is a rule's kind in words.
func RuleKind(k spec.RuleKind) prose.Text { return ruleKinds[k].Text() }

// RuleKindPhrase is the phrase that names a rule's kind.
func RuleKindPhrase(k spec.RuleKind) phrases.Phrase { return ruleKinds[k] }
