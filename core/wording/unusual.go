package wording

import (
	"cmp"

	"oddtick/core/prose"
	"oddtick/core/universal"
	"oddtick/core/wording/phrases"
)

// unusual are the sentences of what breaks a promise that holds on every form.
var unusual = map[universal.ID]phrases.Phrase{
	universal.SecretPlain: phrases.UnusualSecretPlain, universal.SecretReversible: phrases.UnusualSecretReversible, universal.SecretFast: phrases.UnusualSecretFast,
	universal.SecretSalt: phrases.UnusualSecretSalt, universal.SecretShown: phrases.UnusualSecretShown, universal.SecretElsewhere: phrases.UnusualSecretElsewhere,
	universal.SecretRefilled: phrases.UnusualSecretRefilled, universal.StoredCut: phrases.UnusualCut, universal.StoredRounded: phrases.UnusualRounded,
	universal.StoredAltered: phrases.UnusualAltered, universal.StoredOtherDay: phrases.UnusualDay, universal.StoredOtherTime: phrases.UnusualTime,
	universal.RejectedStored: phrases.UnusualRejectedStored, universal.AcceptedUnstored: phrases.UnusualUnstored, universal.OtherRowsChanged: phrases.UnusualOtherRows,
	universal.PageLimitIgnored: phrases.UnusualPageLimit, universal.ServerError: phrases.UnusualServerError, universal.InternalsShown: phrases.UnusualInternals,
	universal.RedirectBroken: phrases.UnusualRedirect, universal.ReloadRepeats: phrases.UnusualReload, universal.GetWrites: phrases.UnusualGet,
	universal.HiddenLost: phrases.UnusualHiddenLost, universal.CookieReadable: phrases.UnusualCookie, universal.MessageMissing: phrases.UnusualNoMessage,
	universal.MessageHidden: phrases.UnusualHidden, universal.MessageElsewhere: phrases.UnusualElsewhere, universal.MessageUnlinked: phrases.UnusualUnlinked,
	universal.MarkupUnescaped: phrases.UnusualMarkup, universal.ValuesLost: phrases.UnusualLost, universal.UniqueCase: phrases.UnusualCapitals,
	universal.UniqueSpaces: phrases.UnusualSpaces, universal.UniqueNotIndex: phrases.UnusualNoIndex, universal.LabelMissing: phrases.UnusualLabel,
	universal.LanguageMissing: phrases.UnusualLanguage, universal.TokenUnchecked: phrases.UnusualToken, universal.TokenForeign: phrases.UnusualForeignToken,
	universal.SessionKept: phrases.UnusualSessionKept, universal.AccountsTold: phrases.UnusualAccountsTold, universal.SecretUnchecked: phrases.UnusualSecretUnchecked, universal.SecretAnyCase: phrases.UnusualSecretAnyCase,
	universal.SurplusStored: phrases.UnusualSurplus, universal.SentAgainStored: phrases.UnusualSentAgain,
}

// unusualOf are the sentences of those that name a field where there is one.
var unusualOf = map[universal.ID]phrases.Phrase{
	universal.ServerError: phrases.UnusualServerErrorOf, universal.MessageMissing: phrases.UnusualNoMessageOf, universal.ValuesLost: phrases.UnusualLostOf,
}

// shownIn is where a secret is shown, by the code of the place.
var shownIn = map[string]phrases.Phrase{"mail": phrases.UnusualInMail, "address": phrases.UnusualInAddress, "page": phrases.UnusualInPage}

// Unusual says what is unusual of a form, with the standard that says otherwise. labels are those of fields, by their ids.
func Unusual(labels map[string]string, u universal.Unusual) prose.Text {
	label := func(id string) string { return cmp.Or(labels[id], id) }
	sentence := unusual[u.Promise]
	if of, is := unusualOf[u.Promise]; is && u.Field != "" {
		sentence = of
	}
	seen := u.Seen
	switch u.Promise {
	case universal.SecretShown:
		seen = string(shownIn[u.Seen].Text())
	case universal.MessageElsewhere:
		seen = label(u.Seen)
	}
	text := sentence.With("label", label(u.Field), "sent", u.Sent, "seen", seen, "column", u.Column)
	if p, _ := universal.Of(u.Promise); p.Source != "" {
		return phrases.UnusualBy.With("text", text, "source", p.Source)
	}
	return text
}
