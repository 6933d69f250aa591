// How quantities are written.

const minus = (text: string) => text.replace("-", "−");

export const signed = (value: number, digits = 1) =>
  minus(`${value >= 0.05 / 10 ** (digits - 1) ? "+" : ""}${value.toFixed(digits)}`).replace(
    /^−0\.0$/,
    "+0.0",
  );

export const clock = (minutes: number) => {
  const whole = Math.round(minutes) % 1440;
  return `${String(Math.floor(whole / 60)).padStart(2, "0")}:${String(whole % 60).padStart(2, "0")}`;
};

export const lux = (value: number) => {
  if (value >= 1000)
    return `${(Math.round(value / 100) * 100).toLocaleString("en").replace(/,/g, " ")} lx`;
  if (value >= 10) return `${value.toFixed(0)} lx`;
  if (value >= 0.1) return `${value.toFixed(1)} lx`;
  return value > 0 ? `${value.toFixed(4)} lx` : "0 lx";
};

/** How many there are. */
export const count = (n: number) => n.toLocaleString("en").replace(/,/g, " ");

/** A plain number with three meaningful digits. */
export const amount = (value: number) =>
  value >= 100
    ? Math.round(value).toLocaleString("en").replace(/,/g, " ")
    : Number(value.toPrecision(2)).toString();

export const shutter = (seconds: number) => {
  if (seconds >= 0.4) return `${Number(seconds.toPrecision(2))} s`;
  const below = 1 / seconds;
  return `1/${below >= 10 ? Math.round(below) : Number(below.toPrecision(2))} s`;
};

export const percent = (share: number) => `${(share * 100).toFixed(1)} %`;

/** A length; the minus sign of type, not of the keyboard. */
export const metres = (value: number) =>
  minus(`${value.toFixed(Math.abs(value) < 10 ? 2 : Math.abs(value) < 100 ? 1 : 0)} m`);

export const degrees = (value: number) => minus(`${value.toFixed(1)}°`);

export const place = (latitude: number, longitude: number) =>
  `${Math.abs(latitude).toFixed(1)}° ${latitude >= 0 ? "N" : "S"}, ${Math.abs(longitude).toFixed(1)}° ${longitude >= 0 ? "E" : "W"}`;

export const date = (iso: string) =>
  new Date(`${iso}T12:00:00Z`).toLocaleDateString("en-GB", {
    day: "numeric",
    month: "long",
    timeZone: "UTC",
  });

/** A while, to what one cares to know of it. */
export const duration = (seconds: number) => {
  if (seconds < 90) return `${Math.max(1, Math.round(seconds))} s`;
  if (seconds < 5400) return `${Math.round(seconds / 60)} min`;
  return `${Number((seconds / 3600).toPrecision(2))} h`;
};

/** Bytes as kilobytes, megabytes or gigabytes. */
export const size = (bytes: number) => {
  if (bytes >= 9.95e8) return `${(bytes / 1e9).toFixed(1)} GB`;
  if (bytes >= 1e5 || bytes === 0) return `${(bytes / 1e6).toFixed(bytes < 9.95e6 ? 1 : 0)} MB`;
  return `${Math.ceil(bytes / 1e3)} kB`;
};
