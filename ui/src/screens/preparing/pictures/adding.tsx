import { chakra } from "@chakra-ui/react";
import { useEffect, useRef, useState } from "react";
import type { Schemas } from "../../../api/client";
import { uploadPicture, useFetchPicture } from "../../../api/operations";
import { useDo } from "../../../api/queries";
import { Button, FilesButton, Input, Quiet, Trouble } from "../../../parts/controls";
import { writing } from "../../../parts/keys";

type Props = {
  others: Schemas["OriginalPicture"][];
  chosen: string[]; // digests
  onAdd: (digests: string[]) => void;
};

/** Adding takes more pictures: those that the product may be shown by, files,
 * what is dropped or pasted, an address. */
export function Adding({ others, chosen, onAdd }: Props) {
  const [address, setAddress] = useState("");
  const upload = useDo(async (files: File[]) => {
    const added: string[] = [];
    for (const f of files) added.push((await uploadPicture({ body: f })).digest);
    return added;
  });
  const fromAddress = useFetchPicture((address: string) => ({ body: { address } }));
  const take = (files: File[]) => {
    const pictures = files.filter((f) => f.type.startsWith("image/"));
    if (pictures.length > 0) upload.mutate(pictures, { onSuccess: onAdd });
  };
  const fetchIt = () =>
    address &&
    fromAddress.mutate(address, {
      onSuccess: (p) => {
        onAdd([p.digest]);
        setAddress("");
      },
    });
  const latest = useRef(take);
  latest.current = take;
  useEffect(() => {
    const paste = (e: ClipboardEvent) => {
      const files = [...(e.clipboardData?.files ?? [])];
      if (files.length === 0 || writing(e)) return;
      e.preventDefault();
      latest.current(files);
    };
    window.addEventListener("paste", paste);
    return () => window.removeEventListener("paste", paste);
  }, []);
  const more = others.filter((o) => !chosen.includes(o.digest));
  return (
    <chakra.section
      aria-label="Add pictures"
      borderTopWidth="1px"
      borderColor="hair"
      pt="3"
      onDragOver={(e) => e.preventDefault()}
      onDrop={(e) => {
        e.preventDefault();
        take([...e.dataTransfer.files]);
      }}
    >
      <chakra.div display="flex" gap="2" alignItems="center" flexWrap="wrap">
        <FilesButton label="Files of pictures" accept="image/*" onFiles={take}>
          Add files
        </FilesButton>
        <Quiet>or drop them here, or paste one; or from</Quiet>
        <Input
          type="url"
          h="28px"
          w="260px"
          aria-label="Address of a picture"
          placeholder="https://…"
          value={address}
          onChange={(e) => setAddress(e.target.value)}
          onKeyDown={(e) => {
            if (e.key !== "Enter") return;
            e.preventDefault(); // it may stand in a form
            fetchIt();
          }}
        />
        <Button size="small" disabled={!address || fromAddress.isPending} onClick={fetchIt}>
          Fetch it
        </Button>
        {upload.isPending && <Quiet role="status">Adding…</Quiet>}
      </chakra.div>
      <Trouble error={upload.error ?? fromAddress.error} />
      {more.length > 0 && (
        <chakra.div display="flex" gap="2" flexWrap="wrap" alignItems="center" mt="2">
          <Quiet>Others of the product</Quiet>
          {more.map((o) => (
            <chakra.button
              key={o.digest}
              type="button"
              aria-label={`Add the picture of ${o.width} × ${o.height} pixels`}
              onClick={() => onAdd([o.digest])}
              p="1"
              borderWidth="1px"
              borderColor="hair"
              rounded="4px"
              bg="panel"
              cursor="pointer"
            >
              <chakra.img
                src={`/api/v1/pictures/${o.digest}?size=small`}
                alt=""
                w="52px"
                h="52px"
                objectFit="contain"
              />
            </chakra.button>
          ))}
        </chakra.div>
      )}
    </chakra.section>
  );
}
