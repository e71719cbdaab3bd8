declare module 'virtual:manual' {
	const manual: import('../manual').Leaf[];
	export default manual;
}
