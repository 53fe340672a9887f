import { chakra } from "@chakra-ui/react";
import { useEffect, useRef, useState } from "react";
import { useNavigate } from "react-router";
import { useGetBookmarklet, useRenewBookmarklet, useUploadPage } from "../../api/operations";
import { Button, Quiet, Title, Trouble } from "../../parts/controls";
import { Working } from "../../parts/working";

/** asks is what the window that takes a page says to the one that has it. */
const asks = "easymargin asks for the page";

/** bookmarkOf is a bookmark's address: on a supplier's page it opens one window of
 * ours, and hands the page to it once that asks. Nobody else is told the token. */
export const bookmarkOf = (origin: string, token: string) =>
  `javascript:${encodeURIComponent(
    `(()=>{const o=${JSON.stringify(origin)},w=window.open(o+"/hand-in","easymargin-hand-in");` +
      `if(!w){alert("Let this page open a window, and try again.");return}` +
      `const f=e=>{if(e.source!==w||e.origin!==o||e.data!==${JSON.stringify(asks)})return;` +
      `removeEventListener("message",f);` +
      `w.postMessage({token:${JSON.stringify(token)},address:location.href,html:document.documentElement.outerHTML},o)};` +
      `addEventListener("message",f)})()`,
  )}`;

const useToken = () => useGetBookmarklet();

/** Bookmark is dragged to a browser's bookmarks: it hands in the page a person is on. */
export function Bookmark() {
  const { data, error } = useToken();
  const renew = useRenewBookmarklet(() => ({}));
  const link = useRef<HTMLAnchorElement>(null);
  const [copied, setCopied] = useState(false);
  const address = data?.token && bookmarkOf(location.origin, data.token);
  useEffect(() => {
    const a = link.current;
    if (!a || !address) return;
    a.setAttribute("href", address); // set by hand: no screen runs what it links to
    const stay = (e: Event) => e.preventDefault();
    a.addEventListener("click", stay);
    return () => a.removeEventListener("click", stay);
  }, [address]);
  return (
    <chakra.section aria-label="From where you are" pt="3" mt="3" borderTopWidth="1px" borderColor="hair">
      <Trouble error={error ?? renew.error} />
      <chakra.div display="flex" gap="3" alignItems="center">
        {data && !data.token && (
          <Button size="small" disabled={renew.isPending} onClick={() => renew.mutate(undefined)}>
            Make the bookmark
          </Button>
        )}
        <chakra.a
          hidden={!address}
          ref={link}
          href="/hand-in"
          draggable
          title="Drag it to your bookmarks"
          borderWidth="1.5px"
          borderStyle="dashed"
          borderColor="action"
          rounded="4px"
          px="3"
          py="1"
          fontWeight="600"
          cursor="grab"
        >
          To Easy Margin
        </chakra.a>
        <Quiet flex="1">
          {address ? "Drag this to your bookmarks." : "A bookmark of your browser's."} On any product's page, one behind
          a log-in too, it hands the page in as you see it; you look at it here before it is kept.
        </Quiet>
        {address && (
          <>
            <Button size="small" onClick={() => navigator.clipboard.writeText(address).then(() => setCopied(true))}>
              {copied ? "Copied" : "Copy its address"}
            </Button>
            <Button size="small" disabled={renew.isPending} onClick={() => renew.mutate(undefined)}>
              Make another, end the old
            </Button>
          </>
        )}
      </chakra.div>
    </chakra.section>
  );
}

type Handed = { token: string; address: string; html: string };

const isHanded = (x: unknown): x is Handed => {
  const h = x as Handed | null;
  return typeof h?.token === "string" && typeof h.address === "string" && typeof h.html === "string";
};

/** HandIn is the window that a bookmark opens: it asks for the page, and shows what came of it. */
export function HandIn() {
  const go = useNavigate();
  const hand = useUploadPage((x: Handed) => ({
    query: { token: x.token, address: x.address },
    body: new Blob([x.html]),
  }));
  const { mutate, isIdle } = hand;
  useEffect(() => {
    const from: Window | null = window.opener;
    if (!from || !isIdle) return;
    const take = (e: MessageEvent) => {
      if (e.source !== from || !isHanded(e.data)) return;
      mutate(e.data, { onSuccess: (f) => go(`/sources/feeds/${f.id}`, { replace: true }) });
    };
    addEventListener("message", take);
    from.postMessage(asks, "*"); // nothing that is anybody's: whoever opened this may know that it is open
    return () => removeEventListener("message", take);
  }, [mutate, isIdle, go]);
  return (
    <>
      <Title title="A page from where you are" />
      {hand.error ? (
        <Trouble error={hand.error} />
      ) : (
        <chakra.p role="status">
          {window.opener ? "Waiting for the page…" : "Press the bookmark on a product's page: it comes here."}{" "}
          <Working on={hand.isPending} />
        </chakra.p>
      )}
    </>
  );
}
