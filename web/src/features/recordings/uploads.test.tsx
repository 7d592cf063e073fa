import { act, screen, waitFor } from "@testing-library/react";
import { useState } from "react";
import { afterEach, beforeEach, describe, expect, test, vi } from "vitest";

import { serve, show, type Asked } from "../../testing";
import { UploadsProvider, useUploads } from "./UploadsProvider";
import { UploadsUnderWay } from "./UploadsUnderWay";

class FakeRequest {
  static made: FakeRequest[] = [];
  upload: { onprogress: ((event: { loaded: number }) => void) | null } = { onprogress: null };
  onload: (() => void) | null = null;
  onerror: (() => void) | null = null;
  status = 0;
  responseText = "";
  url = "";
  body: Blob | null = null;
  open(_: string, url: string) {
    this.url = url;
  }
  setRequestHeader() {}
  send(body: Blob) {
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

const FILES = [new File(["abcdef"], "a b.wav", { lastModified: 7 }), new File(["d"], "c.wav")];

/** A page that can be left while files come in. */
function Page() {
  const [left, setLeft] = useState(false);
  return (
    <>
      <UploadsUnderWay />
      {left ? <p>elsewhere</p> : <Probe files={FILES} />}
      <a onClick={() => setLeft(!left)}>leave or return</a>
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
    show(<UploadsProvider><Page /></UploadsProvider>);
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

  test("go on while another page is shown, which says so, and the browser asks before it closes", async () => {
    const leave = () => act(() => screen.getByText("leave or return").click());
    const closing = () => !window.dispatchEvent(new Event("beforeunload", { cancelable: true }));
    expect(closing()).toBe(false);
    add();
    const first = await sent(1);
    leave();
    expect(screen.getByText("2 files coming in")).toBeInTheDocument();
    await waitFor(() => expect(closing()).toBe(true));
    act(() => first.end(400, { error: { code: "unreadable_audio", message: "a b.wav: is no sound file" } }));
    const second = await sent(2);
    expect(screen.getByRole("link")).toHaveTextContent("1 file coming in1 file could not come in");
    act(() => second.end(200));
    leave();
    await waitFor(() => expect(shown()).toEqual(["a b.wav 0 a b.wav: is no sound file"]));
    await waitFor(() => expect(closing()).toBe(false));
  });

  test("are dropped on any page", async () => {
    const dropped = new Event("drop", { bubbles: true, cancelable: true });
    Object.assign(dropped, { dataTransfer: { types: ["Files"], files: [new File(["x"], "d.wav")] } });
    act(() => void document.body.dispatchEvent(dropped));
    expect(dropped.defaultPrevented).toBe(true);
    await sent(1);
    expect(shown()).toEqual(["d.wav 0"]);
  });

  test("go on where they were", async () => {
    begun.received_bytes = 4;
    add();
    const piece = await sent(1);
    expect(piece.url).toContain("offset=4");
    expect(await piece.body?.text()).toBe("ef");
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

  test("a lost connection is reported, and tried again from what came in", async () => {
    add();
    const first = await sent(1);
    begun.received_bytes = 3;
    act(() => first.onerror?.());
    await waitFor(() => expect(shown()[0]).toContain("trying again"));
    await act(() => vi.advanceTimersByTimeAsync(600));
    expect((await sent(2)).url).toContain("offset=3");
  });

  test("a file that was changed meanwhile is reported", async () => {
    add();
    const first = await sent(1);
    vi.spyOn(Blob.prototype, "arrayBuffer").mockRejectedValueOnce(new DOMException("changed", "NotReadableError"));
    act(() => first.onerror?.());
    await waitFor(() => expect(shown()[0]).toContain("was changed or moved"));
    vi.restoreAllMocks();
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
