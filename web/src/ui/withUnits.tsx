import { createElement, type FunctionComponent } from "react";

import { useUnits } from "./units";

/** A page that is drawn anew, with all that is typed in it, once other units are chosen. */
export function withUnits(page: FunctionComponent): FunctionComponent {
  return function Shown() {
    useUnits();
    return createElement(page);
  };
}
