package rule

import "arvel/core/audit"

// All is the table of all rules, the more exact ones first.
var All = audit.NewRules(
	tooLong,
	noDestination,
	mistypedScheme,
	diskPath,
	missingScheme,
	malformedURL,
	malformedEmail,
	caseMismatch,
	unicodeForm,
	missingIndex,
	missingFile,
	missingFragment,
	rootRelative,
	ownAddress,
	climbsOut,
	backslash,
	straySpace,
	unencoded,
	addressInText,
	nothingToClick,
	opener,
	missingAlt,
	duplicateID,
	spaceInID,
	hashInID,
	missingTitle,
	emptyPage,
	deadEnd,
	fileName,
	unreached,
	unusedFile,
)
