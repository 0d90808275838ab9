/** How a check is done, less what the words on access before it have said already. */
export function withoutAccess(how: string): string {
  const rest = how.replace(/^Unplugged[.,] ?(panel off[.,] ?)?/, "");
  return rest.charAt(0).toUpperCase() + rest.slice(1);
}
