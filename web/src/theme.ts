import { Autocomplete, CloseButton, createTheme, Drawer, Modal, Select, type CSSVariablesResolver, type MantineColorsTuple } from "@mantine/core";

/** Ten steps for Mantine from the one accent; only steps 4 (dark) and 7 (light) are used for filled parts. */
const beet: MantineColorsTuple = ["#f8eaf1", "#ecd0de", "#dba6c1", "#cb7ba4", "#db94b8", "#a94d7d", "#923c68", "#7b2d53", "#652244", "#4f1835"];

/** Mantine's neutral steps in the tones of the palette: paper for light, night for dark. */
const gray: MantineColorsTuple = ["#fbf8f1", "#f3eee3", "#e9e2d3", "#d9d1c0", "#c3baa7", "#a39b8b", "#7f7a70", "#596072", "#3c4152", "#1f2330"];
const dark: MantineColorsTuple = ["#ece6dd", "#cfc8c4", "#a9a3b0", "#8a8393", "#4a4453", "#3a3543", "#2a2631", "#211e27", "#17151b", "#100e13"];

/** An accessible name as a default; the types of a part's own props leave those of its element out. */
function named(name: string): object {
  return { "aria-label": name };
}

const LONG_LIST = { maxHeight: 260, overflowY: "auto" } as const;

export const theme = createTheme({
  colors: { beet, gray, dark },
  primaryColor: "beet",
  primaryShade: { light: 7, dark: 4 },
  autoContrast: true,
  fontFamily: "var(--sans)",
  fontFamilyMonospace: "var(--mono)",
  headings: { fontFamily: "var(--sans)" },
  defaultRadius: "md",
  cursorType: "pointer",
  // nothing slides or fades for those who have asked their system for that
  respectReducedMotion: true,
  // dialogs and notes close by a cross: it has a name for those who do not see it
  components: {
    CloseButton: CloseButton.extend({ defaultProps: { ...named("Close") } }),
    // the list itself scrolls, with the cursor of its field in it: a scrolling box around it could not be reached by keyboard
    // a dialog has a heading; the banner is the page's
    Drawer: Drawer.extend({ defaultProps: { attributes: { header: { role: "presentation" } } } }),
    Modal: Modal.extend({ defaultProps: { attributes: { header: { role: "presentation" } } } }),
    Select: Select.extend({ defaultProps: { withScrollArea: false }, styles: { options: LONG_LIST } }),
    ComboboxOptions: { defaultProps: { tabIndex: 0 } },
    Autocomplete: Autocomplete.extend({ defaultProps: { withScrollArea: false }, styles: { options: LONG_LIST } }),
  },
});

/** Mantine's own variables point at our palette, so that no part of it brings a colour of its own. */
export const variables: CSSVariablesResolver = () => {
  const shared = {
    "--mantine-color-body": "var(--ground)",
    "--mantine-color-text": "var(--ink)",
    "--mantine-color-dimmed": "var(--soft)",
    "--mantine-color-placeholder": "var(--soft)",
    "--mantine-color-default": "var(--surface)",
    "--mantine-color-default-hover": "var(--raised)",
    "--mantine-color-default-color": "var(--ink)",
    "--mantine-color-default-border": "var(--line)",
    "--mantine-color-error": "var(--worse)",
    "--mantine-color-anchor": "var(--accent)",
  };
  return { variables: {}, light: shared, dark: shared };
};
