import { Input as Chakra, chakra, NativeSelect } from "@chakra-ui/react";
import type { ReactNode } from "react";

/** Button says what will happen. `main` is the one thing to do on a screen. */
export const Button = chakra(
  "button",
  {
    base: {
      display: "inline-flex",
      alignItems: "center",
      gap: "2",
      h: "32px",
      px: "3",
      rounded: "5px",
      borderWidth: "1px",
      borderColor: "hair",
      bg: "panel",
      color: "ink",
      fontWeight: "600",
      fontSize: "13px",
      whiteSpace: "nowrap",
      cursor: "pointer",
      _hover: { borderColor: "quiet" },
      _pressed: { bg: "band", borderColor: "quiet" },
      _disabled: { opacity: 0.5, cursor: "not-allowed" },
    },
    variants: {
      look: {
        main: { bg: "action", color: "actionInk", borderColor: "action", _hover: { borderColor: "ink" } },
        plain: { bg: "transparent", borderColor: "transparent", px: "2", color: "ink", _hover: { bg: "band" } },
      },
      size: { small: { h: "26px", px: "2", fontSize: "12.5px" } },
    },
  },
  { defaultProps: { type: "button" } }, // one that sends its form says so
);

type FilesButtonProps = {
  label: string;
  accept: string;
  title?: string;
  one?: boolean;
  onFiles: (files: File[]) => void;
  children: ReactNode;
};

/** FilesButton takes files that are chosen. */
export function FilesButton({ label, accept, title, one, onFiles, children }: FilesButtonProps) {
  return (
    <Button
      as="label"
      size="small"
      title={title}
      position="relative"
      _focusWithin={{ outline: "2px solid", outlineColor: "focus" }}
    >
      {children}
      <chakra.input
        type="file"
        accept={accept}
        multiple={!one}
        aria-label={label}
        position="absolute"
        opacity="0"
        w="1px"
        onChange={(e) => {
          const files = [...(e.target.files ?? [])];
          e.target.value = "";
          if (files.length > 0) onFiles(files);
        }}
      />
    </Button>
  );
}

type FileButtonProps = Omit<FilesButtonProps, "one" | "onFiles"> & { onText: (text: string) => void };

/** FileButton takes the text of a file that is chosen. */
export function FileButton({ onText, ...rest }: FileButtonProps) {
  return <FilesButton one onFiles={async ([file]) => onText(await file.text())} {...rest} />;
}

/** Head is the head of a column in a plain table. */
export function Head({ left, children }: { left?: boolean; children: ReactNode }) {
  return (
    <chakra.th
      fontWeight="600"
      color="quiet"
      fontSize="12px"
      whiteSpace="nowrap"
      textAlign={left ? "left" : "right"}
      pb="1"
      pl={left ? 0 : "3"}
    >
      {children}
    </chakra.th>
  );
}

type InputProps = React.ComponentProps<typeof Chakra> & { figures?: boolean };

/** Input is one line to type into; figures stand at its right. */
export function Input({ figures, ...rest }: InputProps) {
  return <Chakra {...(figures && { fontFamily: "mono", textAlign: "right" })} {...rest} />;
}

type SelectProps = Omit<React.ComponentProps<typeof NativeSelect.Field>, "w" | "maxW" | "h"> & {
  w?: string;
  maxW?: string;
  h?: string;
  disabled?: boolean;
};

/** Select is one of a few, as the browser has it. */
export function Select({ w, maxW, h, disabled, children, ...rest }: SelectProps) {
  return (
    <NativeSelect.Root w={w} maxW={maxW} disabled={disabled}>
      <NativeSelect.Field h={h} {...rest}>
        {children}
      </NativeSelect.Field>
      <NativeSelect.Indicator />
    </NativeSelect.Root>
  );
}

/** Key shows the key that does the same. */
export function Key({ children }: { children: ReactNode }) {
  return (
    <chakra.kbd
      fontFamily="mono"
      fontSize="11px"
      lineHeight="16px"
      minW="18px"
      textAlign="center"
      px="1"
      rounded="3px"
      borderWidth="1px"
      borderColor="hair"
      bg="panel"
      color="ink"
    >
      {children}
    </chakra.kbd>
  );
}

/** Code is a number or a ref that has to be read letter by letter. */
export const Code = chakra("span", {
  base: { fontFamily: "mono", fontSize: "12.5px", color: "quiet", whiteSpace: "nowrap" },
});

export const Quiet = chakra("span", { base: { color: "quiet" } });

/** Word is a state, as a word in a frame: never by colour alone. */
export const Word = chakra("span", {
  base: {
    borderWidth: "1px",
    borderColor: "hair",
    rounded: "4px",
    px: "1.5",
    fontSize: "12px",
    lineHeight: "18px",
    whiteSpace: "nowrap",
    color: "ink",
  },
  variants: { tone: { bad: { borderColor: "loss", color: "loss" }, good: { borderColor: "gain", color: "gain" } } },
});

type TitleProps = { title: ReactNode; more?: ReactNode; children?: ReactNode };

/** Title heads a screen: what it is, what it stands on, and its actions. */
export function Title({ title, more, children }: TitleProps) {
  return (
    <chakra.div display="flex" alignItems="center" gap="4" minH="48px" pt="3" pb="2" flexShrink={0}>
      <chakra.h1 fontSize="20px" fontWeight="700" whiteSpace="nowrap">
        {title}
      </chakra.h1>
      <chakra.div color="quiet" flex="1" minW="0" truncate>
        {more}
      </chakra.div>
      <chakra.div display="flex" gap="2" flexShrink={0}>
        {children}
      </chakra.div>
    </chakra.div>
  );
}

/** Empty says what will be here, and offers the first step. */
export function Empty({ title, children }: { title: string; children?: ReactNode }) {
  return (
    <chakra.div py="16" px="6" textAlign="center" maxW="34rem" mx="auto">
      <chakra.div fontWeight="700" fontSize="15px" mb="1">
        {title}
      </chakra.div>
      <chakra.div color="quiet">{children}</chakra.div>
    </chakra.div>
  );
}

/** Trouble says what went wrong, with what is safe and what to do. */
export function Trouble({ error, retry }: { error: unknown; retry?: () => void }) {
  if (!error) return null;
  return (
    <chakra.div
      role="alert"
      bg="warn"
      borderLeftWidth="3px"
      borderColor="loss"
      px="3"
      py="2"
      my="2"
      display="flex"
      gap="3"
      alignItems="center"
    >
      <chakra.div flex="1">{error instanceof Error ? error.message : String(error)}</chakra.div>
      {retry && (
        <Button size="small" onClick={retry}>
          Try again
        </Button>
      )}
    </chakra.div>
  );
}
