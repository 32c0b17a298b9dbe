import createClient from "openapi-fetch";
import type { components, paths } from "./schema.gen";

type Schemas = components["schemas"];
export type State = Schemas["State"];
export type Folder = Schemas["Folder"];
export type KnownFolder = Schemas["KnownFolder"];
export type PageCount = Schemas["PageCount"];
export type Overview = Schemas["Overview"];
export type WayCount = Schemas["WayCount"];
export type FolderCount = Schemas["FolderCount"];
export type Page = Schemas["Page"];
export type Reference = Schemas["Reference"];
export type Destination = Schemas["Destination"];
export type Landing = Schemas["Landing"];
export type Target = Schemas["Target"];
export type Tread = Schemas["Tread"];
export type Note = Schemas["Note"];
export type Outline = Schemas["Outline"];
export type Landmark = Schemas["Landmark"];
export type Source = Schemas["Source"];
export type Span = Schemas["Span"];
export type Offer = Schemas["Offer"];
export type Composing = Schemas["Composing"];
export type Composed = Schemas["Composed"];
export type Choice = Schemas["Choice"];
export type Writable = Schemas["Writable"];
export type TagAttribute = Schemas["TagAttribute"];
export type ContentsList = Schemas["ContentsList"];
export type Message = Schemas["Message"];
export type Meant = Schemas["Meant"];
export type LinkedWords = Schemas["LinkedWords"];
export type TextEdit = Schemas["TextEdit"];
export type LiveMark = Schemas["LiveMark"];
export type JudgedText = Schemas["JudgedText"];
export type HeadingAt = Schemas["HeadingAt"];
export type Settings = Schemas["Settings"];
export type Hosting = Schemas["Hosting"];
export type FateRow = Schemas["FateRow"];
export type Place = Schemas["Place"];
export type AsideFinding = Schemas["AsideFinding"];
export type Cause = Schemas["Cause"];
export type CauseList = Schemas["CauseList"];
export type CauseDetail = Schemas["CauseDetail"];
export type CauseRow = Schemas["CauseRow"];
export type Move = Schemas["Move"];
export type NameFault = Schemas["NameFault"];
export type Plan = Schemas["Plan"];
export type Deletion = Schemas["Deletion"];
export type TreeEntry = Schemas["TreeEntry"];
export type Departure = Schemas["Departure"];
export type Run = Schemas["Run"];
export type Repair = Schemas["Repair"];
export type Mending = Schemas["Mending"];
export type Change = Schemas["Change"];
export type ChangeDetail = Schemas["ChangeDetail"];
export type Work = Schemas["Work"];
export type FolderEvent = Schemas["Event"];
type Problem = Schemas["Problem"];

/** What the server answered in place of what was asked for, or that it did not answer. */
export class ProblemError extends Error {
  readonly problem: Problem;
  readonly at = Date.now();
  constructor(problem: Problem) {
    super(problem.title);
    this.problem = problem;
  }
}

const client = createClient<paths>({ baseUrl: "/api/v1" });

let token: Promise<string> | undefined;

/** The token that changes need. It is another one after the server was started again. */
async function currentToken(): Promise<string> {
  token ??= client.GET("/session").then((r) => (r.data ? r.data.token : ""));
  try {
    return await token;
  } catch (error) {
    token = undefined; // it is asked for again
    throw error;
  }
}

/** Forget the token, since the server may have been started again. */
export function forgetToken(): void {
  token = undefined;
}

client.use({
  async onRequest({ request }) {
    // What is half typed or just gone is no failure of the interface, so the browser is not to log it as one.
    request.headers.set("Prefer", "quiet-problems");
    if (request.method !== "GET") request.headers.set("X-Arvel-Token", await currentToken());
    return request;
  },
});

type Answer<T> = { data?: T; error?: unknown; response: Response };

/** Unwraps an answer: its data, or a ProblemError thrown. */
export async function answer<T>(asked: Promise<Answer<T>>): Promise<T> {
  let got: Answer<T>;
  try {
    got = await asked;
  } catch {
    throw new ProblemError({
      status: 0,
      title: "Arvel does not answer.",
      detail: "Is it still running? Start it again.",
    });
  }
  const isProblem = got.response.headers.get("Content-Type")?.startsWith("application/problem+json") ?? false;
  if (got.error !== undefined || !got.response.ok || isProblem) {
    const problem = (got.error ?? got.data) as Partial<Problem> | undefined;
    throw new ProblemError({
      ...problem,
      status: problem?.status ?? got.response.status,
      title: problem?.title ?? "Arvel could not answer that.",
    });
  }
  return got.data as T;
}

export const api = client;
