import { act, screen, waitFor } from "@testing-library/react";
import { beforeEach, describe, expect, test, vi } from "vitest";

import { show } from "../../testing";
import { useUploads } from "./uploads";

class FakeRequest {
  static made: FakeRequest[] = [];
  upload: { onprogress: ((event: { loaded: number }) => void) | null } = { onprogress: null };
  onload: (() => void) | null = null;
  onerror: (() => void) | null = null;
  status = 0;
  responseText = "";
  url = "";
  open(_: string, url: string) {
    this.url = url;
  }
  setRequestHeader() {}
  send() {
    FakeRequest.made.push(this);
  }
  end(status: number, body: unknown) {
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
          {`${u.name} ${u.sentBytes} ${u.fault ?? ""}`.trim()}
        </button>
      ))}
    </>
  );
}

const shown = () => screen.getAllByRole("button").slice(1).map((b) => b.textContent);

describe("uploads", () => {
  beforeEach(() => {
    FakeRequest.made = [];
    vi.stubGlobal("XMLHttpRequest", FakeRequest);
    show(<Probe files={[new File(["abc"], "a b.wav"), new File(["d"], "c.wav")]} />);
    act(() => screen.getByText("add").click());
  });

  test("go one after the other, with their progress", async () => {
    expect(shown()).toEqual(["a b.wav 0", "c.wav 0"]);
    expect(FakeRequest.made).toHaveLength(1);
    expect(FakeRequest.made[0]?.url).toContain("name=a%20b.wav");
    act(() => FakeRequest.made[0]?.upload.onprogress?.({ loaded: 2 }));
    expect(shown()[0]).toBe("a b.wav 2");
    act(() => FakeRequest.made[0]?.end(201, {}));
    await waitFor(() => expect(FakeRequest.made).toHaveLength(2));
    expect(shown()).toEqual(["c.wav 0"]);
  });

  test("one that is refused says why and stops no other; it can be dismissed", async () => {
    act(() => FakeRequest.made[0]?.end(400, { error: { message: "a b.wav: is empty (0 bytes)" } }));
    await waitFor(() => expect(FakeRequest.made).toHaveLength(2));
    expect(shown()[0]).toBe("a b.wav 0 a b.wav: is empty (0 bytes)");
    act(() => screen.getByText(/is empty/).click());
    expect(shown()).toEqual(["c.wav 0"]);
  });

  test("a lost connection is told", async () => {
    act(() => FakeRequest.made[0]?.onerror?.());
    await waitFor(() => expect(shown()[0]).toContain("the connection was lost"));
  });
});
