/**
 * The query of the address as it stands now. What a component was given when it last drew may be older: two changes in
 * quick succession, the second made from that, would undo the first.
 */
export function addressNow(): URLSearchParams {
  return new URLSearchParams(window.location.search);
}
