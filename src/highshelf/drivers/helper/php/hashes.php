
$request = helper_request();
$started = microtime(true);
$folder = isset($request['folder']) ? (int) $request['folder'] : 0;
$base = helper_path($folder, isset($request['inside']) ? (string) $request['inside'] : '');
$after = isset($request['after']) ? (string) $request['after'] : '';
helper_reply(tree_hashes($base, $after, !empty($request['modes']), empty($request['all']), $started));
