$request = helper_request();
$started = microtime(true);
if (!empty($request['join'])) {
    helper_reply(join_slices(helper_path(0, 'archive.zip'), $started));
}
if (!class_exists('ZipArchive')) {
    helper_reply(['error' => 'PHP here has no ZipArchive'], 501);
}
$archive = new ZipArchive();
$opened = $archive->open(helper_path(0, 'archive.zip'));
if ($opened !== true) {
    helper_reply(['error' => 'the archive cannot be opened: ' . $opened], 422);
}
$target = helper_path(0, 'tree');
$next = isset($request['next']) ? (int) $request['next'] : 0;
for (; $next < $archive->numFiles; $next++) {
    if (helper_time_is_up($started)) {
        break;
    }
    $name = (string) $archive->getNameIndex($next);
    $path = helper_path(0, 'tree/' . rtrim($name, '/'));
    if (substr($name, -1) === '/') {
        is_dir($path) || mkdir($path, 0755, true);
        continue;
    }
    is_dir(dirname($path)) || mkdir(dirname($path), 0755, true);
    $in = $archive->getStream($name);
    $out = helper_create($path);
    if ($in === false || $out === false || stream_copy_to_stream($in, $out) === false) {
        helper_reply(['error' => 'cannot write ' . $name . ' (disk full or quota?)'], 507);
    }
    fclose($in);
    fclose($out);
}
helper_reply(['next' => $next, 'all' => $archive->numFiles]);
