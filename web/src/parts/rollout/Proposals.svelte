<!-- What waits for a second person: read whole, then approved or refused. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { write } from '../../api/actions';
	import type { Schemas } from '../../api/client';
	import { ask } from '../../api/queries';
	import { moment } from '../../model/words/moment';
	import { Acts } from '../../state/acts.svelte';
	import { session } from '../../state/shell/session.svelte';
	import Refused from '../ui/Refused.svelte';

	type Proposal = Schemas['ProposalRowOut'];
	const proposals = createQuery(ask.proposals);
	const waiting = $derived((proposals.data?.items ?? []).filter((one) => !one.decided_at));
	const acts = new Acts('proposal');

	const mayApprove = (one: Proposal): boolean => session.may('correct') && one.made_by !== session.name;

	const decide = (one: Proposal, approved: boolean): Promise<boolean> =>
		acts.do(() => (approved ? write.approveProposal(one) : write.refuseProposal(one.id)));
</script>

{#if waiting.length}
	<section class="mb-6 border border-hair bg-sheet p-4" aria-labelledby="proposals">
		<h2 id="proposals" class="text-lg">Waiting for a second person</h2>
		<Refused {acts} />
		{#each waiting as one (one.id)}
			<details class="border-t border-hair py-2" data-proposal={one.id}>
				<summary>
					{one.lines[0]}
					<span class="quiet"
						>{one.made_by}, {moment(one.made_at)}{one.needs_administrator
							? '; an administrator decides'
							: ''}</span
					>
				</summary>
				{#if one.lines.length > 1}
					<pre class="value mt-2 max-h-72 overflow-auto text-[0.82rem]">{one.lines.slice(1).join('\n')}</pre>
				{/if}
				<p class="mt-2 flex gap-3">
					{#if mayApprove(one)}
						<button class="do" onclick={() => decide(one, true)}>Approve what I read</button>
					{/if}
					{#if session.may('correct')}
						<button class="may" onclick={() => decide(one, false)}
							>{one.made_by === session.name ? 'Withdraw it' : 'Refuse it'}</button
						>
					{/if}
				</p>
			</details>
		{/each}
	</section>
{/if}
