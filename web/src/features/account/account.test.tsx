import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";

import { serve, show } from "../../testing";
import { EntryGate, OwnAccount } from ".";

const pages = <EntryGate><p>The pages</p></EntryGate>;

async function enter(name: string, password: string) {
  await userEvent.type(await screen.findByLabelText("Name"), name);
  await userEvent.type(screen.getByLabelText("Password"), password);
  await userEvent.click(screen.getByRole("button", { name: "Sign in" }));
}

describe("the way in", () => {
  it.each([
    ["accounts are off", { accounts: false, name: null }],
    ["somebody is signed in", { accounts: true, name: "warden" }],
    ["nobody can be asked: the pages tell what is wrong", [500, { error: { code: "failed", message: "A fault.", path: null } }]],
  ])("is open where %s", async (_, answer) => {
    serve({ "GET /api/account/": answer });
    show(pages);
    expect(await screen.findByText("The pages")).toBeInTheDocument();
  });

  it("asks for name and password, tells why not, and lets in", async () => {
    const refusal = { error: { code: "bad_input", message: "Name and password do not go together, or the account is closed.", path: null } };
    const answers: Record<string, unknown> = { "GET /api/account/": { accounts: true, name: null }, "POST /api/account/sign-in/": [400, refusal] };
    const asked = serve(answers);
    show(pages);
    expect(await screen.findByRole("button", { name: "Sign in" })).toBeDisabled();
    await enter("warden", "wrong one");
    expect(await screen.findByRole("alert")).toHaveTextContent("do not go together");
    expect(screen.getByLabelText("Password")).toHaveValue("");
    expect(screen.getByLabelText("Password")).toHaveFocus();
    expect(screen.getByLabelText("Name")).toHaveValue("warden");
    answers["POST /api/account/sign-in/"] = { accounts: true, name: "warden" };
    await userEvent.type(screen.getByLabelText("Password"), "tern-and-knot-9");
    await userEvent.click(screen.getByRole("button", { name: "Sign in" }));
    expect(await screen.findByText("The pages")).toBeInTheDocument();
    expect(asked.at(-1)?.body).toEqual({ name: "warden", password: "tern-and-knot-9" });
  });
});

describe("one's own account", () => {
  it("signs out, and the way in is shown", async () => {
    serve({ "GET /api/account/": { accounts: true, name: "warden" }, "POST /api/account/sign-out/": { accounts: true, name: null } });
    show(<EntryGate><OwnAccount name="warden" /></EntryGate>);
    await userEvent.click(await screen.findByRole("button", { name: "Sign out" }));
    expect(await screen.findByRole("form", { name: "Sign in" })).toBeInTheDocument();
  });

  it("takes another password, and tells what is wrong with one", async () => {
    const answers: Record<string, unknown> = { "PUT /api/account/password/": [400, { error: { code: "bad_input", message: "password: This password is too common.", path: "new" } }] };
    const asked = serve(answers);
    show(<OwnAccount name="warden" />);
    await userEvent.click(screen.getByRole("button", { name: "Change password" }));
    await userEvent.type(screen.getByLabelText("Current password"), "tern-and-knot-9");
    await userEvent.type(screen.getByLabelText("New password"), "12345678");
    await userEvent.click(screen.getByRole("button", { name: "Change it" }));
    expect(await screen.findByRole("alert")).toHaveTextContent("too common");
    answers["PUT /api/account/password/"] = [204, null];
    await userEvent.type(screen.getByLabelText("New password"), "9");
    await userEvent.click(screen.getByRole("button", { name: "Change it" }));
    expect(await screen.findByRole("status")).toHaveTextContent("Other browsers have to sign in again");
    expect(asked.at(-1)?.body).toEqual({ old: "tern-and-knot-9", new: "123456789" });
    await waitFor(() => expect(screen.getByLabelText("Current password")).toHaveValue(""));
  });
});
