<script lang="ts">
	import { untrack } from 'svelte';
	import { api, done, faultOf, type FaultBody, type Schemas } from '../api/calls';
	import { bytes, momentOf } from '../lib/say';
	import Confirm from '../parts/Confirm.svelte';
	import Facts from '../parts/Facts.svelte';
	import Fault from '../parts/Fault.svelte';
	import Head from '../parts/Head.svelte';
	import ReleaseFields from '../parts/ReleaseFields.svelte';
	import ReleaseCompare from '../parts/ReleaseCompare.svelte';
	import ReleaseMatch from '../parts/ReleaseMatch.svelte';
	import ReleaseTexts from '../parts/ReleaseTexts.svelte';
	import ReleaseWeighed from '../parts/ReleaseWeighed.svelte';
	import Table from '../parts/Table.svelte';
	import { navigate, p, route } from '../router';
	import { List } from '../state/list.svelte';

	interface Finding {
		what: string;
		value: string;
		where: string;
		sure: number;
	}
	const ref = $derived(route.params.sha256 ?? '');
	let release = $state.raw<Schemas['ReleaseOut'] | null>(null);
	let fault = $state.raw<FaultBody | null>(null);
	let away: Confirm | undefined = $state();
	const files = new List<Schemas['MemberOut']>(
		(part) => done(api.GET('/api/v1/releases/{ref}/files', { params: { path: { ref }, query: part } })),
		50,
	);
	$effect(() => {
		void load(ref);
		untrack(() => void files.load());
	});

	async function load(wanted: string): Promise<void> {
		try {
			release = await done(api.GET('/api/v1/releases/{ref}', { params: { path: { ref: wanted } } }));
			fault = null;
		} catch (reason) {
			fault = faultOf(reason);
		}
	}
	const listed = (name: string, none: string): string => {
		const found = release?.findings[name];
		if (!Array.isArray(found) || !found.length) return none;
		const more = found.length > 12 ? ` and ${String(found.length - 12)} more` : '';
		return found.slice(0, 12).map(String).join(', ') + more;
	};
	const text = (name: string): string => {
		const found = release?.findings[name];
		return typeof found === 'string' ? found : '';
	};
	const databases = $derived.by(() => {
		const kinds = release?.findings.databases;
		const versions = (release?.findings.database_versions ?? {}) as Record<string, string>;
		if (!Array.isArray(kinds) || !kinds.length) return 'no connection to one was found';
		return kinds
			.map((kind) =>
				versions[String(kind)] ? `${String(kind)} ${versions[String(kind)] ?? ''} or newer` : String(kind),
			)
			.join(' or ');
	});
	const compared = $derived.by(() => {
		const told = release?.origin?.compared;
		if (!Array.isArray(told)) return '';
		return told.length ? told.map(String).join('; ') : 'with nothing: no checksum was given';
	});
	const php = $derived(
		[text('php') ? `${text('php')} or newer` : '', text('php_below') ? `older than ${text('php_below')}` : '']
			.filter(Boolean)
			.join(', ') || 'nothing in it says which',
	);
	const details = $derived(((release?.findings.details ?? []) as unknown as Finding[]).slice(0, 40));

	async function remove(): Promise<void> {
		await done(api.DELETE('/api/v1/releases/{ref}', { params: { path: { ref } } }));
		await navigate('/shelf');
	}
</script>

<Head title={release ? `${release.name} ${release.version}` : 'Release'} above="Shelf" up={p('/shelf')}>
	{#snippet aside()}
		{#if release}
			<a class="btn btn-act plain" href={p('/jobs/new', { search: { release: release.sha256 } })}
				>Plan an install</a
			>
			<button class="btn btn-lesser" type="button" onclick={() => away?.ask()}>Take it off the shelf</button>
		{/if}
	{/snippet}
</Head>
{#if fault}<Fault {fault} />{/if}
{#if release?.fault}
	<Fault
		fault={{
			code: 'archive',
			message: `This release cannot be used: ${release.fault}.`,
			hint: 'Take it off the shelf and check it in again from where it came from.',
			retryable: false,
			context: {},
		}}
	/>
{/if}
{#if release}
	<div class="two">
		<section class="card-paper" aria-labelledby="archive">
			<h2 id="archive">Archive</h2>
			<Facts
				facts={[
					{ name: 'File', value: release.file_name, code: true },
					{ name: 'Packed', value: `${bytes(release.size_bytes)} (${text('packed') || release.format})` },
					{
						name: 'Unpacked',
						value: `${bytes(release.unpacked_bytes)} in ${release.files.toLocaleString('en')} files`,
					},
					{
						name: 'Wrapper folder',
						value: text('wrapper') || 'none: the files lie at the top',
						note: text('wrapper') ? 'stays behind: its contents go up' : '',
					},
					{ name: 'SHA-256', value: release.sha256, code: true },
					{ name: 'Checked in', value: momentOf(release.checked_in_at) },
					{ name: 'Fetched from', value: String(release.origin?.address ?? ''), code: true },
					{ name: 'Compared', value: compared },
				]}
			/>
		</section>
		<section class="card-paper" aria-labelledby="found">
			<h2 id="found">What was found in it</h2>
			<Facts
				facts={[
					{ name: 'PHP', value: php, note: release.findings.pre_release ? 'a pre-release' : '' },
					{ name: 'Extensions', value: listed('extensions', 'none that are not always there') },
					{ name: 'One of', value: listed('alternatives', '') },
					{ name: 'Wished for', value: listed('wished_extensions', '') },
					{ name: 'Database', value: databases },
					{
						name: 'Installer',
						value: listed('installers', listed('installer_routes', listed('setting_up', 'none was found'))),
					},
					{ name: 'In the terminal', value: listed('terminal_installers', '') },
					{
						name: 'Unquoted names',
						value: listed('unquoted_names', ''),
						note: 'a database’s name with a hyphen may break there',
					},
					{ name: 'Web folder', value: text('web_folder') },
					{ name: 'Writable', value: listed('writable', '') },
					{ name: 'Administration', value: listed('administration', '') },
					{
						name: 'JavaScript',
						value: listed('javascript', ''),
						note: 'these parts only run with it',
					},
					{ name: 'SQL files', value: listed('dumps', '') },
					{ name: 'Samples', value: listed('samples', '') },
					{ name: 'Licence', value: listed('licences', '') },
					{ name: 'Dotfiles', value: listed('dotfiles', '') },
					{ name: 'Heed', value: listed('notes', '') },
				]}
			/>
			{#if details.length}
				<details>
					<summary>Where each was seen</summary>
					<ul class="seen small">
						{#each details as one, index (index)}
							<li>
								{one.what}: {one.value} <span class="code">{one.where}</span>
								<span class="quiet">{Math.round(one.sure * 100)} % sure</span>
							</li>
						{/each}
					</ul>
				</details>
			{/if}
			<ReleaseFields {release} />
		</section>
	</div>
	<ReleaseWeighed {release} changed={(now) => (release = now)} />
	<ReleaseMatch {ref} />
	<ReleaseCompare {release} />
	<ReleaseTexts {ref} />
	<section class="files" aria-labelledby="files">
		<h2 id="files">Files, as they will stand on the host</h2>
		<Table
			list={files}
			usual="path"
			what="file"
			find="Part of a path"
			key={(one) => one.path}
			columns={[
				{ name: 'path', title: 'Path', sort: 'path', wide: true },
				{ name: 'size', title: 'Size', sort: 'size', right: true },
				{ name: 'sha', title: 'SHA-256' },
			]}
		>
			{#snippet cell(one, column)}
				{#if column === 'path'}<span class="code">{one.path}</span>
				{:else if column === 'size'}{bytes(one.size_bytes)}
				{:else}<span class="code quiet" title={one.sha256}>{one.sha256.slice(0, 16)}</span>{/if}
			{/snippet}
		</Table>
	</section>
	<Confirm
		bind:this={away}
		title="Take {release.name} {release.version} off the shelf?"
		text="The archive and what was found in it are removed here; nothing on any host is touched. It is refused while an installation came from it."
		word="Take it off"
		act={remove}
	/>
{:else if !fault}<p class="quiet">Looking…</p>{/if}

<style>
	.plain {
		text-decoration: none;
	}
	.two {
		display: grid;
		grid-template-columns: repeat(auto-fit, minmax(min(26rem, 100%), 1fr));
		gap: 1rem;
		align-items: start;
	}
	h2 {
		margin-bottom: 0.5rem;
	}
	.files {
		margin-top: 1.6rem;
	}
	summary {
		color: light-dark(var(--color-primary-700), var(--color-primary-300));
		margin-top: 0.6rem;
		width: fit-content;
	}
	.seen li {
		overflow-wrap: anywhere;
		padding: 0.1rem 0;
	}
</style>
