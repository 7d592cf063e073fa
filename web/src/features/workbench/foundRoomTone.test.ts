import { describe, expect, it } from "vitest";

import type { Recording } from "../../api/types";
import { isHeardUnderWords } from "./foundRoomTone";

const heard = (voice_level_dbfs: number | null, noise_floor_dbfs: number | null, digital_silence_share: number) =>
  isHeardUnderWords({ measures: { voice_level_dbfs, noise_floor_dbfs, digital_silence_share } } as Recording);

describe("whether the room is heard under the words", () => {
  it.each([
    ["somebody pauses", -20, -60, 0, true],
    ["nobody pauses", -20, null, 0, true],
    ["digital silence at one end", -20, -60, 0.3, true],
    ["nothing but digital silence between", -20, null, 0.3, false],
    ["nobody speaks", null, -60, 0, false],
  ] as const)("%s", (_, voice, floor, silence, expected) => expect(heard(voice, floor, silence)).toBe(expected));

  it("is not known before the recording is measured", () => expect(isHeardUnderWords({} as Recording)).toBe(false));
});
