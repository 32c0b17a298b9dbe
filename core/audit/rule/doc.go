// Package rule has the rules by which references, pages and names are judged, one file a rule. A new rule is a new file
// with an [audit.Rule] in it, and a line in the table [All].
package rule
