import type { Schemas } from '../../api/client';
import { storage } from '../words/sizes';

export type ProjectRow = Schemas['ProjectRowOut'];
export type Trouble = Schemas['ProjectTroubleOut'];

const TITLES: Record<Trouble['trouble'], string> = {
	missing: 'Missing',
	misplaced: 'In the wrong place',
	duplicate: 'Listed twice',
	odd: 'Different format',
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

export type Share = { name: string; share: number; words: string; problem: boolean };

/** What is used, missing, listed twice and unused, each as a share of all items or of all bytes; nothing if unread. */
export function projectShares(row: ProjectRow): Share[] {
	if (row.fault || row.reading || !row.items) return [];
	const ofItems = (name: string, count: number, problem: boolean): Share => ({
		name,
		share: Math.min(1, count / row.items),
		words: `${count.toLocaleString('en')} of ${row.items.toLocaleString('en')}`,
		problem
	});
	const unused: Share = {
		name: 'Unused media',
		share: Math.min(1, row.unused / Math.max(1, row.size)),
		words: `${storage(row.unused)} of ${storage(row.size)}`,
		problem: true
	};
	return [
		ofItems('Used', row.used, false),
		ofItems('Missing', row.missing, true),
		ofItems('Listed twice', row.duplicates, true),
		...(row.size ? [unused] : [])
	];
}
