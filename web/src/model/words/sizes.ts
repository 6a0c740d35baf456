const IEC = ['B', 'KiB', 'MiB', 'GiB', 'TiB'];
const SI = ['B', 'kB', 'MB', 'GB', 'TB'];

function scaled(bytes: number, units: string[], base: number): string {
	let value = bytes;
	let step = 0;
	while (value >= base && step < units.length - 1) {
		value /= base;
		step += 1;
	}
	return `${Number(value.toFixed(value < 10 ? 2 : value < 100 ? 1 : 0))} ${units[step] ?? ''}`;
}

/** Memory, in IEC units. */
export const memory = (bytes: number): string => scaled(bytes, IEC, 1024);

/** Storage, in SI units. */
export const storage = (bytes: number): string => scaled(bytes, SI, 1000);

/** `one file`, `12 files`. */
export const filesOf = (count: number): string => (count === 1 ? '1 file' : `${count} files`);
