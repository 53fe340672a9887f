import { chakra } from "@chakra-ui/react";
import { useLocation, useNavigate, useRouteError } from "react-router";
import { Button, Code, Empty, Key, Title } from "./controls";
import { useKeys } from "./keys";

/** Lost is shown at an address that no screen has. */
export function Lost() {
  const go = useNavigate();
  const { pathname } = useLocation();
  const home = () => go("/");
  useKeys({ ".": home, Escape: () => go(-1) }, true, [
    [".", "go to Today"],
    ["Esc", "go back to where you were"],
  ]);
  return (
    <>
      <Title title="Nothing is here" />
      <Empty title="No screen has this address">
        <Code>{pathname}</Code> may be mistyped, or what it showed has gone.
        <chakra.span display="flex" gap="2" justifyContent="center" pt="4">
          <Button onClick={() => go(-1)}>
            Go back <Key>Esc</Key>
          </Button>
          <Button look="main" onClick={home}>
            Go to Today <Key>.</Key>
          </Button>
        </chakra.span>
      </Empty>
    </>
  );
}

/** Broken is shown in the place of a screen that could not be drawn. */
export function Broken() {
  const error = useRouteError();
  return (
    <>
      <Title title="This screen broke" />
      <Empty title="It could not be drawn">
        {error instanceof Error ? error.message : String(error)}. Nothing was changed by it; your work is as it was.
        <chakra.span display="flex" justifyContent="center" pt="4">
          <Button look="main" onClick={() => location.reload()}>
            Load it again
          </Button>
        </chakra.span>
      </Empty>
    </>
  );
}
