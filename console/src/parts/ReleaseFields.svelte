<!-- What the installer's own source does with each field of its forms. -->
<script lang="ts">
	import type { Schemas } from '../api/calls';

	interface Taken {
		field: string;
		value: string;
		where: string;
		sure: number;
		others: string[];
		mail: boolean;
		again: string;
		least: number;
		most: number;
	}

	const { release }: { release: Schemas['ReleaseOut'] } = $props();
	const fields = $derived((release.findings.fields ?? []) as unknown as Taken[]);

	function told(one: Taken): string {
		const ways = [
			one.value === 'foreign' ? 'another server' : one.value,
			...one.others.map((other) => `or ${other}`),
			one.again && `the same as ${one.again}`,
			one.mail && 'an address for mail',
			one.least && `at least ${one.least} letters`,
			one.most && `at most ${one.most} letters`,
		];
		return ways.filter(Boolean).join(', ') || 'nothing says so';
	}
</script>

{#if fields.length}
	<details>
		<summary>What the fields of its installer are for</summary>
		<ul class="small">
			{#each fields as one (one.field)}
				<li>
					<span class="code">{one.field}</span>: {told(one)}
					<span class="code quiet">{one.where}</span>
					{#if one.value}<span class="quiet">{Math.round(one.sure * 100)} % sure</span>{/if}
				</li>
			{/each}
		</ul>
	</details>
{/if}

<style>
	summary {
		color: light-dark(var(--color-primary-700), var(--color-primary-300));
		margin-top: 0.6rem;
		width: fit-content;
	}
	li {
		overflow-wrap: anywhere;
		padding: 0.1rem 0;
	}
</style>
