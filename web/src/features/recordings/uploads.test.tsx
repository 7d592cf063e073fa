import { act, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, test, vi } from "vitest";

import { serve, show, type Asked } from "../../testing";
import { useUploads } from "./uploads";

class FakeRequest {
  static made: FakeRequest[] = [];
  upload: { onprogress: ((event: { loaded: number }) => void) | null } = { onprogress: null };
  onload: (() => void) | null = null;
  onerror: (() => void) | null = null;
  status = 0;
  responseText = "";
  url = "";
  body: ArrayBuffer | null = null;
  open(_: string, url: string) {
    this.url = url;
  }
  setRequestHeader() {}
  send(body: ArrayBuffer) {
    this.body = body;
    FakeRequest.made.push(this);
  }
  end(status: number, body: unknown = {}) {
    this.status = status;
    this.responseText = JSON.stringify(body);
    this.onload?.();
  }
}

function Probe({ files }: { files: File[] }) {
  const { uploads, add, dismiss } = useUploads();
  return (
    <>
      <button onClick={() => add(files)}>add</button>
      {uploads.map((u) => (
        <button key={u.key} onClick={() => dismiss(u.key)}>
          {`${u.name} ${u.sentBytes} ${u.trouble ?? ""}${u.fault ?? ""}`.trim()}
        </button>
      ))}
    </>
  );
}

const shown = () => screen.getAllByRole("button").slice(1).map((b) => b.textContent);
const sent = async (count: number) => {
  await waitFor(() => expect(FakeRequest.made).toHaveLength(count));
  const last = FakeRequest.made[count - 1];
  if (!last) throw new Error("nothing was sent");
  return last;
};

describe("uploads", () => {
  let begun = { id: "up", received_bytes: 0 };
  let asked: Asked[] = [];
  beforeEach(() => {
    begun = { id: "up", received_bytes: 0 };
    FakeRequest.made = [];
    vi.useFakeTimers({ shouldAdvanceTime: true, toFake: ["setTimeout", "clearTimeout"] });
    vi.stubGlobal("XMLHttpRequest", FakeRequest);
    asked = serve({ "POST /api/uploads/": begun, "DELETE /api/uploads/up/": [204, null] });
    show(<Probe files={[new File(["abcdef"], "a b.wav", { lastModified: 7 }), new File(["d"], "c.wav")]} />);
  });
  afterEach(() => vi.useRealTimers());
  const add = () => act(() => screen.getByText("add").click());

  test("go one after the other, with their progress", async () => {
    add();
    expect(shown()).toEqual(["a b.wav 0", "c.wav 0"]);
    const first = await sent(1);
    expect(asked[0]?.body).toEqual({ name: "a b.wav", size_bytes: 6, modified_ms: 7 });
    expect(first.url).toBe("/api/uploads/up/piece/?offset=0");
    act(() => first.upload.onprogress?.({ loaded: 2 }));
    expect(shown()[0]).toBe("a b.wav 2");
    act(() => first.end(200));
    await sent(2);
    expect(shown()).toEqual(["c.wav 0"]);
  });

  test("go on where they were", async () => {
    begun.received_bytes = 4;
    add();
    const piece = await sent(1);
    expect(piece.url).toContain("offset=4");
    expect(new TextDecoder().decode(piece.body ?? new ArrayBuffer())).toBe("ef");
  });

  test("one that is refused says why and stops no other; it can be dismissed", async () => {
    add();
    const first = await sent(1);
    act(() => first.end(400, { error: { code: "unreadable_audio", message: "a b.wav: is no sound file" } }));
    await sent(2);
    expect(shown()[0]).toBe("a b.wav 0 a b.wav: is no sound file");
    act(() => screen.getByText(/is no sound file/).click());
    expect(shown()).toEqual(["c.wav 0"]);
  });

  test("a lost connection is told, and tried again from what came in", async () => {
    add();
    const first = await sent(1);
    begun.received_bytes = 3;
    act(() => first.onerror?.());
    await waitFor(() => expect(shown()[0]).toContain("trying again"));
    await act(() => vi.advanceTimersByTimeAsync(600));
    expect((await sent(2)).url).toContain("offset=3");
  });

  test("a connection that stays lost is given up, with a way to go on", async () => {
    add();
    for (let tries = 1; tries <= 8; tries += 1) {
      const piece = await sent(tries);
      act(() => piece.onerror?.());
      await act(() => vi.advanceTimersByTimeAsync(16_000));
    }
    await waitFor(() => expect(shown()[0]).toContain("add the file again to go on"));
  });
});
