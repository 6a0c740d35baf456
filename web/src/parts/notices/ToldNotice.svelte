<!-- One notice as it was sent, and whether it arrived. -->
<script lang="ts">
	import type { Schemas } from '../../api/client';
	import { moment } from '../../model/words/moment';

	type Props = { notice: Schemas['NoticeOut']; open: boolean };
	let { notice, open }: Props = $props();

	const STATES = { waiting: 'sending to', sent: 'sent to', failed: 'not delivered to' } as const;
	const way = (delivery: Schemas['DeliveryOut']): string => {
		const tries = delivery.tries > 1 ? `, ${delivery.tries} tries` : '';
		return `${STATES[delivery.state]} ${delivery.to}${tries}`;
	};
</script>

<li class="told" data-notice={notice.kind}>
	<details {open}>
		<summary>
			<span class="font-semibold">{notice.subject}</span>
			<time class="quiet whitespace-nowrap" datetime={notice.at}>{moment(notice.at)}</time>
		</summary>
		<pre class="letter">{notice.text}</pre>
	</details>
	{#each notice.deliveries as delivery (delivery.by + delivery.to)}
		<p class="quiet" class:troubled={delivery.fault} data-state={delivery.state}>
			{way(delivery)}{delivery.fault ? `: ${delivery.fault}` : ''}
		</p>
	{/each}
</li>

<style>
	.told {
		border-top: 1px solid var(--hair);
		padding-block: 0.6rem;
	}
	summary::before {
		content: '';
		flex: none;
		width: 0.4rem;
		height: 0.4rem;
		border: solid var(--muted);
		border-width: 0 1.5px 1.5px 0;
		transform: rotate(-45deg);
	}
	details[open] > summary::before {
		transform: rotate(45deg);
	}
	summary > :first-child {
		flex: 1;
	}
	summary {
		display: flex;
		align-items: center;
		gap: 1rem;
		justify-content: space-between;
		cursor: pointer;
	}
	.letter {
		white-space: pre-wrap;
		overflow-wrap: anywhere;
		font: inherit;
		margin-block: 0.5rem;
		padding: 0.7rem 1rem;
		background: var(--sheet);
		border: 1px solid var(--hair);
		border-radius: 3px;
		max-height: 24rem;
		overflow-y: auto;
	}
	.troubled {
		color: var(--sienna);
	}
</style>
