package judge

// The closed sets, for the API's document and the schemas of files.

// Values are the seven checks.
func (CheckName) Values() []string {
	return list(
		Outcome, Response, Messages, RefilledValues, StoredData, Secrets, Session,
	)
}

// Values are the verdicts.
func (Verdict) Values() []string {
	return list(
		AsExpected, Odd, NotObserved, DoesNotApply,
	)
}

// Values are all aspects.
func (Aspect) Values() []string {
	return list(
		Whole, ByHandAspect, OutcomeAspect, Answer, Button, Status, RedirectHost, Redirect, RedirectTarget, Internals, Scripts, ScriptErrors, FailedRequests,
		Focus, SentValues, SentValue, AnswerFormat, AnswerSchema, AnswerHas, AnswerLacks, AnswerMember, BeforeSubmitting, MessageText, MessagePlace,
		MessageVisible, MessageLinked, MessageComes, MessageGoes, NoOtherMessage, SuccessReply, ShownOnce, ShownValue, PageTitle, FieldLabel, NamedLanguage, OwnPage, PageText, PageLink, MailSent, MailSubject, MailText, MailLink, NoOtherMail, FormState, ControlValue, RowWritten,
		ColumnValue, OtherColumns, OtherRows, InResponse, InOtherColumns, SecretHash, HashedText, HashWork, Salt, ResponseHeader, InMail, SessionID, SignedInAfter, Cookie, CookieFlag, CookieLife, NoCookie,
		OtherSessions, PageOpens, VisitorState, PageAccess, FarTooLong, AllValues, SchemaWhenAccepted, MessagesCome, MessagesGo, MessagesLanguage,
		MessagesOfBlank, MessagesOfField, PlaceOfField, VisibleOfField, LinkedOfField,
	)
}

// Values are all kinds of differences.
func (Difference) Values() []string {
	return list(
		OddByHand, OtherOutcome, SubmittedAgain, SentTwice, NoAnswer, ButtonStuck, ServerError, OtherStatus, OtherHost, OtherTarget, TargetMissing, InternalsShown,
		ScriptError, RequestFailed, FocusElsewhere, Altered, NotJSON, AgainstSchema, MemberMissing, MemberSurplus, MemberNotStored, ShownBefore, OtherText,
		OtherLanguage, OtherBlank, OtherRule, Missing, MissingAccepted, MissingNotAccepted, OtherPlace, Hidden, NotLinked, TooLate, TooEarly, Stays,
		NotExpected, ShownAgain, NotShown, NotKept, NotEnded, CookieIsSet, CookieMissing, OtherLife, NotSent, MailTwice, MailNotExpected, NoSuchLink, FormThere, FormGone, FormNotGone, ControlGone, NotRefilled, Filled, OtherValue, NotBlank, NotFilled, NotAsOpened, NoRow,
		RowInserted, RowChanged, RowDeleted, OtherRowInserted, OtherRowChanged, OtherRowDeleted, NoColumn, IsNull, NotNull, Emptied, CutShort, SpacesKept,
		OtherLineEnds, OtherCapitals, ZerosLost, CharactersLost, StoredAsMarkup, OtherTime, NoTime, NotDefault, Changed, OtherKey, NoNumber, OtherAddress,
		NoUUID, SecretShown, SecretStored, StoredOtherwise, OtherTextHashed, TooLittleWork, OtherHeader, SaltReused, SameHashTwice, NotRenewed, NotSignedIn, FlagMissing, SessionsGoOn,
		DoesNotOpen, OtherState, OtherAccess,
	)
}

// Values are all terms.
func (Term) Values() []string {
	return list(
		AsText, ShortText, Quoted, Number, Blank, EmptyText, Null, NullOrEmpty, FilledIn, Checked, NotChecked, None, Unchanged, Anything, Defaults, NoChange,
		OutcomeIs, NothingFurtherWritten, RefusedByThePage, RefusedUnreadable, RefusedOrWithout, FailedWith, StatusIs, StatusTo, SentTimes, RedirectedTo,
		ShowsInternals, PageSays, OtherPageSays, BrowserSays, RowsWritten, OtherRowsWritten, RowsChanged, NoRowIsWritten, NothingNew, NoAnswerCame,
		FormHasGone, FormAsBefore, NoRequestSeen, NoRequestMade, ControlRefused, ControlMakes, SeenByHand, AnAnswer, NoServerError, TheSites, LeadsTo, APage,
		PageAnswers, NotSeen, RequestLost, OnSummary, OnField, AsEntered, AsTyped, NotAsTyped, CanBePressed, Disabled, JSON, FollowsIt, Violation, AMember,
		Members, WhatColumnHolds, NoMessage, SomethingLike, QuotedInPlace, LikeInPlace, SomeInPlace, QuotedAtControl, SomeMessage, PromisedPlace,
		SeenInPlace, Seen, ButHidden, RefersToIt, DoesNotRefer, Elsewhere, AtControl, MatchesPattern, ACookie, AsPromised, WithoutForm, TheForm, AMail, MailsSent, NoReceiver, PageWithoutIt, NoLonger, WhileTyping, OnLeaving, OnSubmitting,
		GoneOnceCorrected, ItStays, FormFilledIn, FormAsOpened, PageWithoutForm, FormIs, Gone, There, TheControl, NewRow, OneChangedRow, ChangedOrSame,
		TheColumn, NotInTable, AUUID, ANumber, VisitorsAddress, KeyOfRow, NowWithin, Moment, Nowhere, InRedirect, InHeader, InPage, InColumn, InMailText,
		PlainText, PlainWithin, Reversible, FastHash, FastHashSalted, FastOrUnknown, UnknownForm, HashKind, SlowHash, OneOf, AtLeast, WorkNotRead, FreshSalt, SharedSalt,
		AnotherSalt, StoredSameTwice, StoredDifferently, WhatWasSent, UnknownText, SecretBlank, SecretTrimmed, SecretLowered, SecretRaised, SecretBytes,
		SecretCharacters, SecretEscaped, SecretForm, ValueOfField, SentBefore, Renewed, CookieChanged, NoCookieChanged, PageIsOpen, FlagSet, FlagNotSet,
		SessionIsEnded, SessionIsOn, StateIs, OpensAs, Because, VisitorNotKnown, NothingPromisedOfRows, NothingPromisedOfValues, NothingPromisedOfSession,
		NoPageSendsIt, HoldsNUL, WasRefused, OutcomeDiffers, NoDatabaseWatched, MayHoldItAlready, JudgedUnderSecrets, JudgedByHand, PromiseNotKnown,
		DefaultNotKnown, NoRowWritten, NoRowSeen, HostsNotAllowed, NoMember, AnswerTooLong, NoPageCame, SiteFailed, ControlKeptOut, ButtonDisabled, OnOtherStep,
		ControlRemade, RefusedUnread, OnlyJSON, JSONHasNoForm, PageNotOpened, NotNative, NotOffered, NotLoadedAnew, ListNotRead, NothingChosen,
		NoMistakeMade, MistakeImpossible, NoSecretSent, ShortOrInnocent, Peppered, NotVerified, NoPagePromised, NotSetHere, NoOtherSession,
	)
}

// Values are the attributes.
func (CookieAttribute) Values() []string {
	return list(
		HTTPOnly, Secure, SameSiteLax, SameSiteStrict,
	)
}

func list[T ~string](of ...T) []string {
	out := make([]string, len(of))
	for i, v := range of {
		out[i] = string(v)
	}
	return out
}
