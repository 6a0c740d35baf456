/** What a plan comes to, in a title. */
const count = (many: number, one: string): string => `${many} ${one}${many === 1 ? '' : 's'}`;

export function titleOf(changes: number, seats: number, errands: number): string {
	if (!changes && errands) return `Plan: ${count(errands, 'errand')}`;
	const more = errands ? `, ${count(errands, 'errand')}` : '';
	return `Plan: ${count(changes, 'change')} on ${count(seats, 'seat')}${more}`;
}
