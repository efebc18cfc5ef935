/** The generated API client. Every failure becomes one ApiError that says what, where and what to do. */
import createClient from "openapi-fetch";
import type { components, paths } from "./schema";

export type ErrorBody = components["schemas"]["ErrorBody"];

export class ApiError extends Error {
  constructor(
    readonly status: number,
    readonly body: ErrorBody,
  ) {
    super([body.what, body.remedy].filter(Boolean).join(" "));
  }

  get stale(): boolean {
    return this.status === 409;
  }
}

export const client = createClient<paths>({ baseUrl: "" });

const UNREACHABLE: ErrorBody = {
  kind: "unreachable",
  what: "The server does not answer.",
  where: "",
  remedy: "Nothing you typed is lost. Start it again with ./yard run, then repeat.",
  problems: [],
  steps: [],
};

interface Outcome<T> {
  data?: T;
  error?: unknown;
  response: Response;
}

/** Unwrap a call: its data, or an ApiError. */
export async function call<T>(outcome: Promise<Outcome<T>>): Promise<T> {
  let found: Outcome<T>;
  try {
    found = await outcome;
  } catch {
    throw new ApiError(0, UNREACHABLE);
  }
  if (found.data !== undefined && found.response.ok) return found.data;
  throw new ApiError(found.response.status, isBody(found.error) ? found.error : { ...UNREACHABLE, what: `The server answered ${found.response.status}.` });
}

function isBody(value: unknown): value is ErrorBody {
  return typeof value === "object" && value !== null && "what" in value;
}
