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

/** Everything is seen. */
globalThis.IntersectionObserver = class {
  readonly root = null;
  readonly rootMargin = "";
  readonly scrollMargin = "";
  readonly thresholds = [];
  constructor(private readonly tell: IntersectionObserverCallback) {}
  observe() {
    this.tell([{ isIntersecting: true } as IntersectionObserverEntry], this);
  }
  unobserve() {}
  disconnect() {}
  takeRecords = () => [];
};

// A busy machine draws late; what never comes still fails.
configure({ asyncUtilTimeout: 5000 });
