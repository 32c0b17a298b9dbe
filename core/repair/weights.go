package repair

// The weights order repairs of the same certainty, the greatest first, and so decide which of them is the best. Only their order
// counts; the steps between them leave room for what is added to a weight or taken from it.
const (
	// What the record knows comes before what the folder says, and that before what one name says.
	ofOrigin      = 120 // most of the page's references land from the folder that the page was in before
	ofMovedFile   = 110 // the content that was there is elsewhere now
	ofMovedFolder = 108 // a whole folder became another one, which says less of a single file
	ofLeftBehind  = 105 // a page seems to have been moved from there, by where its own references land

	sameLetters   = 100 // only letter case differs, or a scheme is wanting: nothing else is like it
	sameInWords   = 90  // only what is between the words, or the extension, differs
	sameFolder    = 85  // the name of a folder is near, less 5 for each letter
	perLetter     = 5
	oneLetterAway = 80 // a letter differs where the reference leads
	sameHeading   = 70 // the id is that of the heading which the fragment spells out

	knownIndex  = 60 // the index page of the folder that is meant
	sameLanding = 60 // the same landing, written in another way
	fromThePage = 55 // the same landing, as a path from the page
	onlyEncoded = 50 // the same landing, encoded or turned round
	endOfPath   = 50 // a file at the end of a path on somebody's disk
	sameTitle   = 40 // a page whose title is what the link says

	sameName       = 40 // the name is somewhere else in the folder
	decidesAlone   = 30 // added where the name, or the only slip, decides alone
	oneClimbOff    = 20 // added where one "../" too many or too few explains it
	folderLeftOut  = 15 // added where a folder that was left out explains it
	knownBeside    = 10 // added where other pages of the folder refer to it
	idElsewhere    = 30 // another page has the id
	letterAndPlace = 30 // a letter differs, and the folder too
	letterNoID     = 20 // a letter differs, and the page there lacks the id
	oneDigitAway   = 10 // a digit differs, which is rarely a slip: numbered names are different things
	digitOfID      = 20
	somePage       = 10 // one of several pages in a folder without an index page

	hair = 5 // two weights so near to each other are as good as the same

	toItself     = 20 // taken away where a page would link to itself by name, which is seldom meant
	wrongKind    = 50 // taken away where the target is not of the kind that the element takes
	fragmentLost = 30 // taken away where the fragment is not on the target
	fragmentHeld = 10 // added where it is
)
