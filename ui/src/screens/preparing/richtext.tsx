import { chakra } from "@chakra-ui/react";
import { EditorContent, useEditor, useEditorState } from "@tiptap/react";
import StarterKit from "@tiptap/starter-kit";
import { useEffect, useRef } from "react";
import type { Schemas } from "../../api/client";
import { Button } from "../../parts/controls";

type Props = {
  id: string;
  value: string; // HTML of the tags below
  label: string;
  wrong: boolean;
  describedBy: string;
  tags: string[]; // that the place takes
  texts: Schemas["KeptText"][]; // that can be put in
  onType: (html: string) => void;
  onKeep: () => void;
  onDrop: () => void;
};

/** RichText is a description written without knowing HTML: what is written has
 * only the tags that the place takes. Ctrl and Enter, or leaving it, keeps it. */
export function RichText({ id, value, label, wrong, describedBy, tags, texts, onType, onKeep, onDrop }: Props) {
  const latest = useRef({ onType, onKeep, onDrop });
  latest.current = { onType, onKeep, onDrop };
  const typed = useRef(value);
  const has = (t: string) => tags.includes(t);
  const editor = useEditor({
    content: value,
    extensions: [
      StarterKit.configure({
        bold: has("b") || has("strong") ? {} : false,
        italic: has("i") || has("em") ? {} : false,
        bulletList: has("ul") ? {} : false,
        orderedList: has("ol") ? {} : false,
        heading: false,
        blockquote: false,
        code: false,
        codeBlock: false,
        horizontalRule: false,
        strike: false,
        underline: false,
        link: false,
      }),
    ],
    editorProps: {
      attributes: {
        id,
        role: "textbox",
        "aria-multiline": "true",
        "aria-label": label,
        "aria-describedby": describedBy,
        "aria-invalid": String(wrong),
        spellcheck: "true",
      },
      handleKeyDown: (_, e) => {
        if (e.key === "Enter" && (e.ctrlKey || e.metaKey)) {
          latest.current.onKeep();
          return true;
        }
        if (e.key === "Escape") {
          e.preventDefault(); // the screen stays
          latest.current.onDrop();
          return true;
        }
        return false;
      },
    },
    onUpdate: ({ editor: x }) => {
      typed.current = x.isEmpty ? "" : placed(x.getHTML(), tags);
      latest.current.onType(typed.current);
    },
    onBlur: () => latest.current.onKeep(),
  });
  const on = useEditorState({
    editor,
    selector: ({ editor: x }) => ({
      bold: x?.isActive("bold"),
      italic: x?.isActive("italic"),
      list: x?.isActive("bulletList"),
    }),
  });
  useEffect(() => {
    if (!editor || editor.isFocused || value === typed.current) return;
    typed.current = value;
    editor.commands.setContent(value, { emitUpdate: false });
  }, [editor, value]);
  if (!editor) return null;
  const tool = (name: string, pressed: boolean | undefined, does: () => void) => (
    <Button
      size="small"
      aria-pressed={pressed ?? false}
      onMouseDown={(e: React.MouseEvent) => e.preventDefault()} // the text keeps the focus
      onClick={does}
    >
      {name}
    </Button>
  );
  return (
    <chakra.div
      borderWidth="1px"
      borderColor={wrong ? "loss" : "hair"}
      rounded="4px"
      bg="panel"
      css={{
        "& .tiptap": { minHeight: "110px", padding: "8px", outline: "none" },
        "& .tiptap:focus": { outline: "2px solid", outlineColor: "{colors.focus}", borderRadius: "3px" },
        "& .tiptap p": { marginBottom: "6px" },
        "& .tiptap ul": { paddingLeft: "18px", listStyle: "disc" },
        "& .tiptap ol": { paddingLeft: "18px", listStyle: "decimal" },
      }}
    >
      <chakra.div display="flex" gap="1" p="1" borderBottomWidth="1px" borderColor="hair">
        {(has("b") || has("strong")) && tool("Bold", on?.bold, () => editor.chain().focus().toggleBold().run())}
        {(has("i") || has("em")) && tool("Italic", on?.italic, () => editor.chain().focus().toggleItalic().run())}
        {has("ul") && tool("List", on?.list, () => editor.chain().focus().toggleBulletList().run())}
        {texts.map((t) => (
          <span key={t.name}>
            {tool(`Put in: ${t.name}`, undefined, () =>
              editor
                .chain()
                .focus()
                .insertContent(lines(t.text).map((text) => ({ type: "paragraph", content: [{ type: "text", text }] })))
                .run(),
            )}
          </span>
        ))}
      </chakra.div>
      <EditorContent editor={editor} />
    </chakra.div>
  );
}

/** lines are those of a kept text, the cells of a table parted by points. */
const lines = (text: string) =>
  text
    .split("\n")
    .map((line) =>
      line
        .split(/[\t|]/)
        .map((cell) => cell.trim())
        .filter(Boolean)
        .join(" · "),
    )
    .filter(Boolean);

/** placed writes HTML in the tags that the place takes: b where it knows no
 * strong,
 * no paragraph inside a list, and none at the end that is empty. */
export function placed(html: string, tags: string[]): string {
  let out = html.replace(/(<p><\/p>)+$/, "").replace(/<li><p>(.*?)<\/p><\/li>/g, "<li>$1</li>");
  if (!tags.includes("strong")) out = out.replaceAll("<strong>", "<b>").replaceAll("</strong>", "</b>");
  if (!tags.includes("em")) out = out.replaceAll("<em>", "<i>").replaceAll("</em>", "</i>");
  if (!tags.includes("p")) out = out.replaceAll("<p>", "").replaceAll("</p>", tags.includes("br") ? "<br>" : "\n");
  return out.trim();
}
