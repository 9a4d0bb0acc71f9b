import { setting, short } from "../../ui/format";
import { shownUnit } from "../../ui/units";

/** A length of a drawing in the unit shown; nothing for one that the shape does not have. */
export const size = (mm: number | undefined): string => (mm === undefined ? "" : setting(mm, "mm"));

/** Width × thickness. */
export const section = (width: number | undefined, thickness: number | undefined): string => (width === undefined ? size(thickness) : `${short(shownUnit("mm").at(width))} × ${size(thickness)}`);
