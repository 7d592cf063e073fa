import createClient, { type Middleware } from "openapi-fetch";

import type { paths } from "./schema";

/** An answer of the server that says what went wrong, in its own words. */
export class ApiError extends Error {
  constructor(
    message: string,
    readonly code: string,
    readonly path: string | null,
  ) {
    super(message);
  }
}

const pageToken: Middleware = {
  onRequest({ request }) {
    if (request.method !== "GET") request.headers.set("X-CSRFToken", csrfToken());
    return request;
  },
};

export const api = createClient<paths>({ baseUrl: window.location.origin, fetch: (request) => fetch(request) });
api.use(pageToken);

/** Token that the page's cookie holds; every change carries it. */
export function csrfToken(): string {
  return /(?:^|; )csrftoken=([^;]+)/.exec(document.cookie)?.[1] ?? "";
}

/** Data of an answer, or its error thrown. */
export async function unwrap<T>(
  answer: Promise<{ data?: T; error?: unknown; response: Response }>,
): Promise<T> {
  const { data, error, response } = await answer.catch(() => {
    throw new ApiError("The server does not answer. Is it still running?", "unreachable", null);
  });
  if (!response.ok) throw asApiError(error);
  return data as T;
}

/** The server's error shape as an error; anything else in general words. */
export function asApiError(body: unknown): ApiError {
  if (typeof body === "object" && body !== null && "error" in body) {
    const e = (body as { error: { message?: string; code?: string; path?: string | null } }).error;
    return new ApiError(e.message ?? "Something went wrong.", e.code ?? "failed", e.path ?? null);
  }
  return new ApiError("Something went wrong in the server. Try again.", "failed", null);
}
