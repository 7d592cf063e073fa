import { configure } from "@testing-library/react";
import "@testing-library/jest-dom/vitest";

import { cleanup } from "@testing-library/react";
import { afterEach } from "vitest";

afterEach(cleanup);

// Parts of a browser that the test environment lacks.
globalThis.ResizeObserver = class {
  observe() {}
  unobserve() {}
  disconnect() {}
};

// A busy machine draws late; what never comes still fails.
configure({ asyncUtilTimeout: 5000 });
