import { describe, expect, test, vi } from "vitest";

import { api, ApiError, asApiError, csrfToken, unwrap } from "./client";

describe("talking to the server", () => {
  test("a change carries the page's token, a look does not", async () => {
    document.cookie = "csrftoken=abc123";
    const sent: Request[] = [];
    vi.stubGlobal("fetch", (request: Request) => {
      sent.push(request);
      return Promise.resolve(new Response("[]", { headers: { "Content-Type": "application/json" } }));
    });
    expect(csrfToken()).toBe("abc123");
    await unwrap(api.GET("/api/recipes/"));
    await unwrap(api.POST("/api/runs/", { body: { recording: "x", fit: false } }));
    expect(sent.map((r) => r.headers.get("X-CSRFToken"))).toEqual([null, "abc123"]);
  });

  test("the server's error is thrown in its own words, with the path", async () => {
    const body = { error: { code: "bad_setting", message: "ratio: must be from 1 to 50", path: "steps[0].params.ratio" } };
    vi.stubGlobal("fetch", () => Promise.resolve(new Response(JSON.stringify(body), { status: 400 })));
    const error = await unwrap(api.GET("/api/recipes/")).catch((e: unknown) => e as ApiError);
    expect(error).toMatchObject({ message: "ratio: must be from 1 to 50", path: "steps[0].params.ratio" });
  });

  test("a server that does not answer is reported as such", async () => {
    vi.stubGlobal("fetch", () => Promise.reject(new TypeError("failed")));
    await expect(unwrap(api.GET("/api/recipes/"))).rejects.toMatchObject({ code: "unreachable" });
  });

  test.each([null, "<html>", {}, { detail: "x" }])("what is no error of ours stays general: %o", (body) => {
    expect(asApiError(body).message).toBe("Something went wrong in the server. Try again.");
  });
});
