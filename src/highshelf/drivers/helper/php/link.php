$request = helper_request();
$path = helper_path((int) $request['folder'], (string) $request['inside']);
// The link is read from where it will stand later, not from here: what it says behind the way up has to be one of our folders' own.
$shown = realpath(helper_path((int) $request['shows'], (string) $request['shows_inside']));
$to = (string) $request['to'];
$named = $to;
while (strpos($named, '../') === 0) {
    $named = substr($named, 3);
}
if ($shown === false || $named === '' || strpos('/' . $named . '/', '/../') !== false || substr($shown, -strlen($named) - 1) !== '/' . $named) {
    helper_reply(['error' => 'the link leaves the folders'], 400);
}
if (!function_exists('symlink')) {
    helper_reply(['error' => 'PHP may not make links on this host'], 403);
}
if (is_link($path) && readlink($path) === $to) {
    helper_reply(['made' => true]);
}
if (!symlink($to, $path)) {
    helper_reply(['error' => 'PHP cannot make a link in this folder'], 403);
}
helper_reply(['made' => true]);
