/** "12:05", or "1 h 12 min" from an hour on: how long until something, s; "now" of what is due. */
export function until(s: number): string {
  if (s < 1) return "now";
  const whole = Math.ceil(s);
  if (whole >= 3600) return `${Math.floor(whole / 3600)} h ${Math.floor((whole % 3600) / 60)} min`;
  return `${Math.floor(whole / 60)}:${String(whole % 60).padStart(2, "0")}`;
}

/** "just now", "4 min ago", "2 h ago": how long ago something was, s. */
export function ago(s: number): string {
  if (s < 60) return "just now";
  return s < 5400 ? `${Math.round(s / 60)} min ago` : `${Math.round(s / 3600)} h ago`;
}
