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
	const waiting = $derived((proposals.data?.items ?? []).filter((proposal) => !proposal.decided_at));
	const acts = new Acts('proposal');

	const mayApprove = (proposal: Proposal): boolean =>
		session.may('correct') && proposal.made_by !== session.name;

	const decide = (proposal: Proposal, approved: boolean): Promise<boolean> =>
		acts.do(() => (approved ? write.approveProposal(proposal) : write.refuseProposal(proposal.id)));
</script>

{#if waiting.length}
	<section class="mb-6 border border-hair bg-sheet p-4" aria-labelledby="proposals">
		<h2 id="proposals" class="text-lg">Waiting for approval by a second person</h2>
		<Refused {acts} />
		{#each waiting as proposal (proposal.id)}
			{@render line(proposal)}
		{/each}
	</section>
{/if}

{#snippet line(proposal: Proposal)}
	<details class="border-t border-hair py-2" data-proposal={proposal.id}>
		<summary>
			{proposal.lines[0]}
			<span class="quiet"
				>{proposal.made_by}, {moment(proposal.made_at)}{proposal.needs_administrator
					? '; needs an administrator'
					: ''}</span
			>
		</summary>
		{#if proposal.lines.length > 1}
			<pre class="value mt-2 max-h-72 overflow-auto text-[0.82rem]">{proposal.lines.slice(1).join('\n')}</pre>
		{/if}
		<p class="mt-2 flex gap-3">
			{#if mayApprove(proposal)}
				<button class="do" onclick={() => decide(proposal, true)}>Approve</button>
			{/if}
			{#if session.may('correct')}
				<button class="may" onclick={() => decide(proposal, false)}
					>{proposal.made_by === session.name ? 'Withdraw proposal' : 'Reject proposal'}</button
				>
			{/if}
		</p>
	</details>
{/snippet}
