/** at writes a moment as an Intl format has it. */
export const at = (iso: string, o: Intl.DateTimeFormatOptions) =>
  new Intl.DateTimeFormat("en-GB", { timeZone: "UTC", ...o }).format(new Date(iso));

/** time writes a moment short: only the time on the day it is now. */
export function time(iso: string | null | undefined, now?: string): string {
  if (!iso) return "–";
  const clock = at(iso, { hour: "2-digit", minute: "2-digit" });
  return now && iso.slice(0, 10) === now.slice(0, 10)
    ? clock
    : `${at(iso, { day: "numeric", month: "short" })} ${clock}`;
}

/** day writes a day such as 2026-04-01 in words; what is none, still being typed, stays as it is. */
export const day = (iso: string) =>
  Number.isNaN(Date.parse(`${iso}T00:00:00Z`))
    ? iso
    : at(`${iso}T00:00:00Z`, { day: "numeric", month: "short", year: "numeric" });

/** shifted is a day so many days on; as it is where it is none. */
export function shifted(iso: string, by: number): string {
  if (!/^\d{4}-\d{2}-\d{2}$/.test(iso)) return iso;
  const moment = new Date(`${iso}T00:00:00Z`);
  if (Number.isNaN(moment.getTime())) return iso;
  moment.setUTCDate(moment.getUTCDate() + by);
  return moment.toISOString().slice(0, 10);
}
