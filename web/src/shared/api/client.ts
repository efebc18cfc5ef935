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
    return this.body.kind === "stale";
  }
}

export const client = createClient<paths>({ baseUrl: "" });

/** Told to the window when the server asks for a login. */
export const LOGIN_ASKED = "yard-login-asked";

const LINE_TRIES = 20;

/** What was sent, so that it can be sent again where the server asks for that. */
const sent = new Map<string, Request>();

// Many questions at once: the server has some come again in a moment.
client.use({
  onRequest({ request, id }) {
    sent.set(id, request.clone());
    return request;
  },
  async onResponse({ response, request, id }) {
    const again = sent.get(id);
    sent.delete(id);
    let found = response;
    for (let k = 0; again && k < LINE_TRIES && found.status === 503 && found.headers.has("Retry-After") && !request.signal.aborted; k++) {
      await new Promise((go) => setTimeout(go, 1000 * Number(found.headers.get("Retry-After"))));
      found = await fetch(again.clone());
    }
    return found;
  },
  onError({ id }) {
    sent.delete(id);
  },
});

// The page's own token, which another site's page cannot read; there is one where a login is in use.
client.use({
  onRequest({ request }) {
    const token = /(?:^|; )csrftoken=([^;]+)/.exec(document.cookie)?.[1];
    if (token && request.method !== "GET") request.headers.set("X-CSRFToken", token);
    return request;
  },
});

const UNREACHABLE: ErrorBody = {
  kind: "unreachable",
  what: "The server does not answer.",
  where: "",
  remedy: "Nothing you typed is lost. Start it again with ./yard run, then repeat.",
  problems: [],
  current_revision: null,
  steps: [],
};

interface Outcome<T> {
  data?: T;
  error?: unknown;
  response: Response;
}

let loggedInAt = 0;

/** From now on a refusal of what was asked before the login says nothing any more. */
export function loggedIn(): void {
  loggedInAt = performance.now();
}

/** Unwrap a call: its data, or an ApiError. */
export async function call<T>(outcome: Promise<Outcome<T>>): Promise<T> {
  const askedAt = performance.now();
  let found: Outcome<T>;
  try {
    found = await outcome;
  } catch {
    throw new ApiError(0, UNREACHABLE);
  }
  if (found.data !== undefined && found.response.ok) return found.data;
  if (found.response.status === 401 && isBody(found.error) && found.error.kind === "login" && askedAt >= loggedInAt)
    window.dispatchEvent(new Event(LOGIN_ASKED));
  throw new ApiError(found.response.status, isBody(found.error) ? found.error : { ...UNREACHABLE, what: `The server answered ${found.response.status}.` });
}

function isBody(value: unknown): value is ErrorBody {
  return typeof value === "object" && value !== null && "what" in value;
}
