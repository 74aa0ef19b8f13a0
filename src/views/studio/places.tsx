import { useSyncExternalStore, type AnchorHTMLAttributes, type MouseEvent } from "react";

/** The views, by their addresses. */
export const VIEWS = [
  { href: "/", text: "Score" },
  { href: "/voice", text: "Voice" },
  { href: "/moves", text: "Moves" },
  { href: "/shelf", text: "Shelf" },
  { href: "/send", text: "Send out" },
] as const;

export type Place = (typeof VIEWS)[number]["href"];

/** The address of the view that is shown: the server gives the page to no other. */
export const placeNow = (): Place => VIEWS.find((v) => v.href === window.location.pathname)?.href ?? "/";

const readers = new Set<() => void>();
function subscribe(reader: () => void): () => void {
  readers.add(reader);
  window.addEventListener("popstate", reader);
  return () => {
    readers.delete(reader);
    window.removeEventListener("popstate", reader);
  };
}

/** The address of the view that is shown, also when that changes. */
export const usePlace = (): Place => useSyncExternalStore(subscribe, placeNow);

/** Shows a view. All of them live in the page: the server is not asked, and the browser's way back works. */
export function goTo(place: Place): void {
  if (placeNow() === place) return;
  window.history.pushState(null, "", place);
  for (const reader of readers) reader();
}

/** A link to a view; with a modifier it is the browser's, and opens elsewhere. */
export function PlaceLink({
  href,
  onClick,
  ...rest
}: Omit<AnchorHTMLAttributes<HTMLAnchorElement>, "href"> & { readonly href: Place }) {
  const follow = (e: MouseEvent<HTMLAnchorElement>): void => {
    onClick?.(e);
    if (e.button !== 0 || e.ctrlKey || e.metaKey || e.shiftKey || e.altKey) return;
    e.preventDefault();
    goTo(href);
  };
  return <a {...rest} href={href} onClick={follow} />;
}
