
$request = helper_request();
$started = microtime(true);
$folder = isset($request['folder']) ? (int) $request['folder'] : 0;
$base = helper_path($folder, isset($request['inside']) ? (string) $request['inside'] : '');
$after = isset($request['after']) ? (string) $request['after'] : '';
$found = tree_hashes($base, $after, !empty($request['modes']), $started);
if (!empty($request['all']) && $found['all'] !== '') {
    helper_reply(['all' => $found['all'], 'hashes' => null, 'done' => true]);
}
helper_reply(['hashes' => (object) $found['hashes'], 'done' => $found['done']]);
