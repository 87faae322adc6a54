/** The same while a page is served from its sources. */

import { Fragment, jsx } from "./jsx-runtime";

export type { JSX } from "react/jsx-runtime";
export { Fragment };
export const jsxDEV = jsx;
