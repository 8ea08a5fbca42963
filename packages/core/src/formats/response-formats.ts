/** How numbers stand in a file: real and imaginary part, magnitude and angle, decibels and angle. */
export const numberFormats = [
  { id: 'ri', label: 'RI', note: 'real, imaginary' },
  { id: 'ma', label: 'MA', note: 'magnitude, angle' },
  { id: 'db', label: 'DB', note: 'dB, angle' },
] as const;
export type NumberFormat = (typeof numberFormats)[number]['id'];

/** File formats for S-, Y- and Z-parameters, by name: what menus know before a writer is loaded. */
export const responseFormats = [
  { id: 'touchstone-1', label: 'Touchstone' },
  { id: 'touchstone-2', label: 'Touchstone 2' },
  { id: 'csv', label: 'CSV' },
] as const;
export type ResponseFormat = (typeof responseFormats)[number]['id'];
