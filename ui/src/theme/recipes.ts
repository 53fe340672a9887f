import { defineRecipe, defineSlotRecipe } from "@chakra-ui/react";

// How Chakra's own parts look here. Only the parts that are used have a recipe.

const box = {
  rounded: "4px",
  borderWidth: "1px",
  borderColor: "hair",
  bg: "panel",
  color: "ink",
  _invalid: { borderColor: "loss" },
  _disabled: { opacity: 0.6, cursor: "not-allowed" },
} as const;

export const input = defineRecipe({
  className: "input",
  base: { ...box, h: "32px", px: "2", fontSize: "13.5px", minW: "0", _placeholder: { color: "quiet" } },
});

export const nativeSelect = defineSlotRecipe({
  className: "select",
  slots: ["root", "field", "indicator"],
  base: {
    root: { position: "relative", display: "inline-flex", minW: "0", maxW: "100%" },
    field: {
      ...box,
      appearance: "none",
      w: "100%",
      h: "30px",
      ps: "2",
      pe: "6",
      fontSize: "13px",
      textOverflow: "ellipsis",
    },
    indicator: {
      position: "absolute",
      insetEnd: "1.5",
      top: "0",
      h: "100%",
      display: "inline-flex",
      alignItems: "center",
      color: "quiet",
      pointerEvents: "none",
      _icon: { w: "14px", h: "14px" },
    },
  },
});

export const field = defineSlotRecipe({
  className: "field",
  slots: ["root", "label", "errorText", "helperText", "requiredIndicator"],
  base: {
    root: { display: "block", minW: "0", position: "relative" },
    label: { display: "block", fontSize: "12px", color: "quiet", whiteSpace: "nowrap" },
    errorText: { display: "block", color: "loss", fontSize: "12.5px", mt: "0.5" },
    helperText: { display: "block", color: "quiet", fontSize: "12px" },
    requiredIndicator: { color: "loss" },
  },
  variants: {
    orientation: {
      vertical: {},
      horizontal: {
        root: {
          display: "grid",
          gridTemplateColumns: "minmax(0, 1fr) auto",
          columnGap: "2",
          alignItems: "center",
          py: "0.5",
        },
        label: { fontSize: "inherit", color: "ink", whiteSpace: "normal" },
        errorText: { gridColumn: "1 / -1" },
      },
    },
  },
  defaultVariants: { orientation: "vertical" },
});

export const tabs = defineSlotRecipe({
  className: "tabs",
  slots: ["root", "list", "trigger", "content", "contentGroup", "indicator"],
  base: {
    root: { display: "flex", flexDirection: "column", flex: "1", minH: "0" },
    list: { display: "flex", gap: "5", borderBottomWidth: "1px", borderColor: "hair", flexShrink: 0 },
    trigger: {
      borderBottomWidth: "2px",
      borderColor: "transparent",
      mb: "-1px",
      pb: "1.5",
      minH: "24px",
      cursor: "pointer",
      fontWeight: "500",
      color: "quiet",
      whiteSpace: "nowrap",
      _selected: { borderColor: "ink", color: "ink", fontWeight: "700" },
      _hover: { color: "ink" },
    },
    content: { display: "flex", flexDirection: "column", flex: "1", minH: "0", outline: "none" },
  },
});
