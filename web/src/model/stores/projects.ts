import type { Schemas } from '../../api/client';
import { storage } from '../words/sizes';

export type ProjectRow = Schemas['ProjectRowOut'];
export type Trouble = Schemas['ProjectTroubleOut'];

const TITLES: Record<Trouble['trouble'], string> = {
	missing: 'Missing',
	misplaced: 'In a wrong place',
	duplicate: 'Listed twice',
	odd: 'Unlike the project',
	mixed: 'Mixed rates',
	unused: 'Used by no timeline'
};

/** What is wrong by its kind, what keeps people from working first; each kind with what to do. */
export function troublesByKind(list: readonly Trouble[]): { title: string; do: string; rows: Trouble[] }[] {
	return Object.entries(TITLES).flatMap(([kind, title]) => {
		const rows = list.filter(({ trouble }) => trouble === kind);
		return rows[0] ? [{ title, do: rows[0].do, rows }] : [];
	});
}

/** `74 items, 60 used; 5.5 MB of media, 900 kB unused; 4 missing, 11 listed twice` */
export function projectWords(row: ProjectRow): string {
	if (row.fault) return row.fault;
	const items = `${row.items.toLocaleString('en')} items, ${row.used.toLocaleString('en')} used`;
	const size = row.size ? `${storage(row.size)} of media, ${storage(row.unused)} unused` : '';
	const wrong = [
		row.missing ? `${row.missing} missing` : '',
		row.duplicates ? `${row.duplicates} listed twice` : ''
	];
	return [items, size, wrong.filter(Boolean).join(', ')].filter(Boolean).join('; ');
}
