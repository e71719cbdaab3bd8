<script lang="ts">
	import type { Snippet } from 'svelte';
	import type { Plan } from '../state/plan.svelte';

	/** A plan as it is read: where, what is there, what it asks, what it does leg by leg, and how by hand. */
	let { plan, children }: { plan: Plan; children?: Snippet } = $props();
	const DATABASES: Record<string, string> = { none: 'none', mariadb: 'MariaDB', postgresql: 'PostgreSQL' };
	const legs = $derived([...new Set(plan.acts.map((a) => a.leg))]);
</script>

<dl>
	<dt>There now</dt>
	<dd>{plan.there}</dd>
	<dt>It touches</dt>
	<dd>{plan.touches.length ? plan.touches.join(', ') : 'nothing that is there already'}</dd>
	<dt>Database</dt>
	<dd>{DATABASES[plan.database] ?? plan.database}</dd>
	<dt>It will ask</dt>
	<dd>
		{#if plan.asks?.length}
			<ul class="asks">
				{#each plan.asks as one (one.value)}<li>{one.text}</li>{/each}
			</ul>
		{:else}nothing that is known now; everything has a default{/if}
	</dd>
</dl>
{#if plan.warnings.length}
	<ul class="heed">
		{#each plan.warnings as warning (warning)}<li>{warning}</li>{/each}
	</ul>
{/if}
{@render children?.()}
<h3>What it would do</h3>
<ol class="acts">
	{#each legs as leg (leg)}
		<li>
			<span class="leg">{leg}</span>
			<div class="does">
				{#each plan.acts.filter((a) => a.leg === leg) as act (act.what)}
					<p>{act.what}</p>
					<p class="hand"><span class="sr-only">By hand: </span>{act.by_hand}</p>
				{/each}
			</div>
		</li>
	{/each}
</ol>
<p class="small quiet key">Below each: how you would do it by hand.</p>

<style>
	dl {
		display: grid;
		grid-template-columns: 6.5rem minmax(0, 1fr);
		gap: 0.28rem 1rem;
	}
	dt {
		color: var(--soft);
	}
	dd {
		overflow-wrap: anywhere;
	}
	.asks {
		list-style: none;
	}
	.heed {
		border-left: 4px solid var(--heed);
		padding: 0.2rem 0.8rem;
		margin: 0.8rem 0;
		display: grid;
		gap: 0.25rem;
		overflow-wrap: anywhere;
	}
	h3 {
		margin: 0.9rem 0 0.3rem;
	}
	.acts li {
		display: grid;
		grid-template-columns: 6.5rem minmax(0, 1fr);
		gap: 0 1rem;
		padding: 0.3rem 0;
		border-top: 1px solid var(--line);
	}
	.leg {
		font-weight: 640;
		color: var(--rest);
	}
	.does {
		overflow-wrap: anywhere;
	}
	.hand {
		color: var(--soft);
		font-size: 0.8125rem;
		padding-left: 0.9rem;
		border-left: 2px solid var(--line);
		margin-bottom: 0.25rem;
	}
	@media (max-width: 480px) {
		dl,
		.acts li {
			grid-template-columns: minmax(0, 1fr);
		}
	}
</style>
