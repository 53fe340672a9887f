import { chakra } from "@chakra-ui/react";
import { Moon, Sun, Users } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { Link, Outlet, useLocation, useNavigate, useSearchParams } from "react-router";
import { useEvents } from "../api/events";
import { listListings } from "../api/operations";
import { useClock, useCounts } from "../api/queries";
import { toggleMode, useMode } from "../theme/mode";
import { here as noteHere } from "./away";
import { Clock } from "./clock";
import { Key } from "./controls";
import { Halted } from "./halt";
import { KeyHelp } from "./help";
import { writing } from "./keys";
import { useTyped } from "./narrow";
import { Runs } from "./runs";
import { StripFills } from "./strip";

type Stop = { letter: string; label: string; to: string; count?: number };

/** Frame is the work line across the top and the screen below it. */
export function Frame() {
  useEvents();
  const { data: c } = useCounts();
  const { data: clock } = useClock();
  const now = clock?.now;
  useEffect(() => {
    if (now && document.visibilityState === "visible") noteHere(now);
  }, [now]);
  const stops: Stop[] = [
    { letter: "S", label: "Sources", to: "/sources", count: c && c.feeds_waiting + c.feeds_failed },
    { letter: "M", label: "Match", to: "/match", count: c && c.match_several + c.match_none },
    { letter: "G", label: "Weigh", to: "/weigh" },
    { letter: "P", label: "Price", to: "/price", count: c?.unpriced },
    { letter: "R", label: "Prepare", to: "/prepare", count: c?.incomplete },
    {
      letter: "N",
      label: "Send",
      to: "/send",
      count: c && c.ready + c.refused + c.sends_stuck + c.sheets + c.words + c.tasks,
    },
    { letter: "W", label: "Watch", to: "/watch", count: c && c.plan_lines + c.differences },
    { letter: "O", label: "Orders", to: "/orders", count: c && c.orders_buy + c.orders_send + c.orders_wrong },
  ];
  const away = [
    { letter: "T", label: "Today", to: "/" },
    { letter: "D", label: "Products", to: "/products" },
    { letter: "L", label: "Places", to: "/places" },
    { letter: "E", label: "People", to: "/people" },
  ];
  const { jumping, help, closeHelp } = useFrameKeys([...stops, ...away]);
  const { pathname } = useLocation();
  const here = (to: string) => pathname === to || (to !== "/" && pathname.startsWith(`${to}/`));
  const mode = useMode();
  return (
    <chakra.div display="flex" flexDirection="column" h="100%" minW="1000px">
      <StripFills />
      <chakra.header
        h="56px"
        px="5"
        bg="panel"
        borderBottomWidth="1px"
        borderColor="hair"
        display="flex"
        alignItems="center"
        gap="3"
        flexShrink={0}
      >
        <Link to="/" aria-label="Easy Margin, Today">
          <chakra.span
            display="flex"
            alignItems="center"
            gap="2"
            fontWeight="700"
            fontSize="15.5px"
            whiteSpace="nowrap"
          >
            <Mark /> Easy Margin
          </chakra.span>
        </Link>
        <Plain stop={away[0]} on={here("/")} jumping={jumping} />
        <chakra.nav aria-label="The work" display="flex" position="relative" flex="1" maxW="600px" minW="400px">
          <chakra.div
            position="absolute"
            left="10%"
            right="10%"
            top="11px"
            borderTopWidth="1.5px"
            borderColor="quiet"
            aria-hidden="true"
          />
          {stops.map((s) => (
            <StopLink key={s.to} stop={s} on={here(s.to)} jumping={jumping} />
          ))}
        </chakra.nav>
        <Plain stop={away[1]} on={here("/products")} jumping={jumping} />
        <Plain stop={away[2]} on={here("/places")} jumping={jumping} />
        <chakra.div flex="1" />
        <Runs />
        <Search />
        <Clock />
        <chakra.button
          type="button"
          aria-label={mode === "dark" ? "Light theme" : "Dark theme"}
          onClick={toggleMode}
          cursor="pointer"
          color="quiet"
          minW="24px"
          minH="24px"
          display="inline-flex"
          alignItems="center"
          justifyContent="center"
        >
          {mode === "dark" ? <Sun size={16} /> : <Moon size={16} />}
        </chakra.button>
        <Link
          to="/people"
          aria-label={`People: you are ${clock?.name ?? "…"}`}
          title={clock ? `${clock.name}, ${clock.role}` : undefined}
          aria-current={here("/people") ? "page" : undefined}
        >
          <chakra.span
            color={here("/people") ? "ink" : "quiet"}
            minW="24px"
            minH="24px"
            display="inline-flex"
            alignItems="center"
            justifyContent="center"
            gap="1"
          >
            <Users size={16} aria-hidden="true" /> {jumping && <Key>E</Key>}
          </chakra.span>
        </Link>
      </chakra.header>
      {c?.halt && <Halted halt={c.halt} />}
      <chakra.main flex="1" minH="0" px="5" pb="3" display="flex" flexDirection="column">
        <Outlet />
      </chakra.main>
      {help && <KeyHelp onClose={closeHelp} stops={[...stops, ...away]} />}
    </chakra.div>
  );
}

function Mark() {
  return (
    <svg width="26" height="22" viewBox="0 0 26 22" aria-hidden="true">
      <rect width="26" height="5" fill="var(--chakra-colors-ink)" />
      <rect y="8.5" width="12" height="5" fill="var(--chakra-colors-strip-delivery)" />
      <rect x="13" y="8.5" width="5" height="5" fill="var(--chakra-colors-strip-fees)" />
      <rect x="19" y="8.5" width="7" height="5" fill="var(--chakra-colors-strip-left)" />
      <rect y="17" width="26" height="5" fill="var(--chakra-colors-ink)" />
    </svg>
  );
}

const short = (n: number) => (n < 1000 ? String(n) : `${Math.floor(n / 100) / 10}k`);

function StopLink({ stop, on, jumping }: { stop: Stop; on: boolean; jumping: boolean }) {
  const n = stop.count ?? 0;
  return (
    <chakra.div flex="1" position="relative">
      <Link to={stop.to} aria-current={on ? "page" : undefined} title={n ? `${n} waiting` : undefined}>
        <chakra.span display="flex" flexDirection="column" alignItems="center" gap="0.5">
          <chakra.span
            h={n ? "22px" : "12px"}
            minW={n ? "22px" : "12px"}
            my={n ? "0" : "5px"}
            px={n > 9 ? "1.5" : "0"}
            rounded="full"
            borderWidth="1.5px"
            borderColor="ink"
            bg={on ? "ink" : "panel"}
            color={on ? "panel" : "ink"}
            fontFamily="mono"
            fontSize="12px"
            fontWeight="600"
            lineHeight="19px"
            textAlign="center"
          >
            {n ? short(n) : ""}
          </chakra.span>
          <chakra.span fontSize="12.5px" fontWeight={on ? "700" : "500"} display="flex" gap="1" alignItems="center">
            {stop.label} {jumping && <Key>{stop.letter}</Key>}
          </chakra.span>
        </chakra.span>
      </Link>
    </chakra.div>
  );
}

function Plain({ stop, on, jumping }: { stop: Stop; on: boolean; jumping: boolean }) {
  return (
    <Link to={stop.to} aria-current={on ? "page" : undefined}>
      <chakra.span
        fontWeight={on ? "700" : "500"}
        borderBottomWidth="2px"
        borderColor={on ? "ink" : "transparent"}
        pb="0.5"
        display="flex"
        gap="1"
        alignItems="center"
      >
        {stop.label} {jumping && <Key>{stop.letter}</Key>}
      </chakra.span>
    </Link>
  );
}

function Search() {
  const [params] = useSearchParams();
  const { pathname } = useLocation();
  const go = useNavigate();
  const words = pathname === "/products" ? (params.get("q") ?? "") : "";
  const first = async (q: string) => {
    const found = await listListings({ query: { words: q, limit: 1 } }).catch(() => null);
    if (found?.rows[0]) go(`/products/${found.rows[0].product_id}?listing=${found.rows[0].id}`);
  };
  const field = useTyped(words, (q) =>
    go(q ? `/products?q=${encodeURIComponent(q)}` : "/products", { replace: pathname === "/products" }),
  );
  return (
    <chakra.label position="relative" display="block">
      <chakra.input
        id="search"
        type="search"
        aria-label="Find a product"
        placeholder="Find a product"
        {...field}
        onKeyDown={(e) => {
          if (e.key === "Escape") e.currentTarget.blur();
          if (e.key === "Enter" && field.value) first(field.value);
        }}
        h="32px"
        w="150px"
        px="2.5"
        rounded="5px"
        borderWidth="1px"
        borderColor="hair"
        bg="panel"
        _placeholder={{ color: "quiet" }}
      />
      {!field.value && (
        <chakra.span position="absolute" right="7px" top="6px" pointerEvents="none">
          <Key>/</Key>
        </chakra.span>
      )}
    </chakra.label>
  );
}

/** useFrameKeys are the keys that work everywhere: J and a letter jumps, / searches, ? helps. */
function useFrameKeys(stops: Stop[]) {
  const [jumping, setJumping] = useState(false);
  const [help, setHelp] = useState(false);
  const go = useNavigate();
  const kept = useRef(stops);
  kept.current = stops;
  const jump = useRef(false);
  useEffect(() => {
    const set = (on: boolean) => {
      jump.current = on;
      setJumping(on);
    };
    // In the capture phase, so that a letter after J is not taken by a screen's own keys.
    const press = (e: KeyboardEvent) => {
      if (e.ctrlKey || e.metaKey || e.altKey || writing(e)) return;
      if (jump.current) {
        const stop = kept.current.find((s) => s.letter.toLowerCase() === e.key.toLowerCase());
        set(false);
        e.preventDefault();
        e.stopImmediatePropagation();
        if (stop) go(stop.to);
      } else if (e.key === "j" || e.key === "J") {
        set(true);
        e.preventDefault();
        e.stopImmediatePropagation();
      } else if (e.key === "/") {
        e.preventDefault();
        document.getElementById("search")?.focus();
      } else if (e.key === "?") {
        e.preventDefault();
        setHelp((on) => !on);
      }
    };
    window.addEventListener("keydown", press, true);
    return () => window.removeEventListener("keydown", press, true);
  }, [go]);
  return { jumping, help, closeHelp: () => setHelp(false) };
}
