import type { WayCount } from "../api/client";

/** What the inventory calls each way. */
export const wayWords: Record<WayCount["way"], string> = {
  beside: "pages in the same folder",
  down: "pages in a folder below",
  up: "pages in a folder above",
  across: "pages up and down again",
  top: "pages by a leading slash",
  "on-page": "places on the same page",
  fragment: "places on another page",
  site: "other sites",
  "e-mail": "e-mail",
  phone: "phone",
  image: "images",
  style: "style sheets",
  script: "scripts",
  frame: "frames",
  media: "sound, film and objects",
  form: "forms",
  element: "other elements of the page",
  other: "other",
};

/** What a rule found, by its stable name, said for several and for one. */
export const ruleWords: Record<string, string> = {
  "missing-file": "files that don’t exist",
  "missing-index": "folders without an index page",
  "missing-fragment": "ids that don’t exist",
  "case-mismatch": "other letter case than on disk",
  "malformed-url": "invalid addresses",
  "too-long": "addresses that are too long",
  "mistyped-scheme": "mistyped schemes",
  "missing-scheme": "addresses without their scheme",
  "disk-path": "paths on one person's disk",
  "malformed-email": "e-mail links that mail programs misread",
  "no-destination": "links without an address",
  "root-relative": "a leading slash below the root",
  "own-address": "the folder's own address in full",
  "climbs-out": "climbing out of the folder",
  backslash: "backslashes",
  unencoded: "characters that are not encoded",
  "stray-space": "white space in addresses",
  "unicode-form": "accents written in another way",
  "duplicate-id": "ids that are on a page twice",
  "space-in-id": "spaces in ids",
  "hash-in-id": "ids that begin with #",
  "nothing-to-click": "links with nothing to click on",
  "address-in-text": "links whose words show another address",
  "space-in-link-text": "spaces at the edges of a link’s words",
  opener: "other sites that could change a page",
  "missing-alt": "images without alternative text",
  "changed-place": "links that lead to something else than before",
  "second-extension": "second extensions that hide what files are",
  "file-name": "file names that may not work everywhere",
  "empty-page": "empty pages",
  "missing-title": "pages without a title",
  unreached: "pages that can’t be reached from the home page",
  "no-way-home": "pages from which no link leads home",
  "dead-end": "pages without a link to another one",
  "unused-file": "files that nothing links to",
};

/** What one finding of a rule of advice is called. */
export const oneWord: Record<string, string> = {
  "nothing-to-click": "link with nothing to click on",
  "address-in-text": "link whose words show another address",
  "space-in-link-text": "space at the edge of a link’s words",
  opener: "other site that could change a page",
  "missing-alt": "image without alternative text",
  "second-extension": "second extension that hides what a file is",
  "file-name": "file name that may not work everywhere",
  "empty-page": "empty page",
  "missing-title": "page without a title",
  unreached: "page that can’t be reached from the home page",
  "no-way-home": "page from which no link leads home",
  "dead-end": "page without a link to another one",
  "unused-file": "file that nothing links to",
};

/** How the certainties look. */
export const certaintyLooks: Record<string, string> = {
  certain: "font-bold text-act",
  likely: "font-bold text-fragile",
  possible: "font-bold text-second",
};
