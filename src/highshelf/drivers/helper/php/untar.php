/*
 * The archive is a tar, packed with gzip in many members (RFC 1952, 2.2): each can be unpacked as soon as it is here whole, and a
 * request goes on at the member where the one before it stopped. What a member holds is believed by its own checksum.
 */

/** One piece of a file; a disk that is full is told. */
function untar_write($file, string $bytes, string $name): void
{
    if (fwrite($file, $bytes) !== strlen($bytes)) {
        helper_reply(['error' => 'cannot write ' . $name . ' (disk full or quota?)'], 507);
    }
}

/** A file of the tar, opened where its next byte goes. */
function untar_open(string $inside, string $name, int $done)
{
    $path = helper_path(0, $inside . '/' . $name);
    is_dir(dirname($path)) || mkdir(dirname($path), 0755, true);
    $file = $done === 0 ? helper_create($path) : helper_open($path);
    if ($file === false || fseek($file, $done) !== 0) {
        helper_reply(['error' => 'cannot write ' . $name . ' (disk full or quota?)'], 507);
    }
    return $file;
}

/** The name in a header, or the long one that an extended header before it gave (POSIX.1-2001, pax). */
function untar_name(string $header, string $long): string
{
    $name = rtrim(substr($header, 0, 100), "\0");
    $prefix = rtrim(substr($header, 345, 155), "\0");
    return $long !== '' ? $long : ($prefix !== '' ? $prefix . '/' . $name : $name);
}

/** Take more of the tar in; `held` is what is too short yet to be understood. */
function untar_take(array $state, string $bytes): array
{
    $held = $state['held'] . $bytes;
    $size = strlen($held);
    $at = 0;
    while (!$state['ended']) {
        if ($state['left'] > 0 || $state['pad'] > 0) {
            $what = $state['left'] > 0 ? 'left' : 'pad';
            $count = min($state[$what], $size - $at);
            if ($count === 0) {
                break;
            }
            if ($what === 'left') {
                untar_write($state['file'], substr($held, $at, $count), $state['path']);
                $state['done'] += $count;
                $state['pad'] = (512 - $state['done'] % 512) % 512;
            }
            $state[$what] -= $count;
            $at += $count;
            continue;
        }
        if ($size - $at < 512) {
            break;
        }
        $header = substr($held, $at, 512);
        $length = (int) octdec(rtrim(substr($header, 124, 12), " \0"));
        if (rtrim($header, "\0") === '') {
            $state['ended'] = true;
        } elseif ($header[156] === 'x') {
            $whole = 512 + $length + (512 - $length % 512) % 512;
            if ($size - $at < $whole) {
                break;
            }
            if (preg_match('/(?:^|\n)\d+ path=([^\n]*)\n/', substr($held, $at + 512, $length), $found)) {
                $state['long'] = $found[1];
            }
            $at += $whole;
        } else {
            $state['path'] = untar_name($header, $state['long']);
            $state['file'] = untar_open($state['inside'], $state['path'], 0);
            $state['long'] = '';
            $state['left'] = $length;
            $state['done'] = 0;
            $state['files'] += 1;
            $at += 512;
        }
    }
    $state['held'] = substr($held, $at);
    return $state;
}

$request = helper_request();
$started = microtime(true);
if (!function_exists('inflate_init') || !function_exists('inflate_get_read_len')) {
    helper_reply(['error' => 'PHP here has no zlib'], 501);
}
if (!empty($request['join'])) {
    helper_reply(join_slices(helper_path(0, 'archive.tar'), $started));
}
$inside = isset($request['inside']) ? (string) $request['inside'] : 'tree';
if (!empty($request['compare'])) {
    // What was unpacked here is compared with the release.
    $after = isset($request['after']) ? (string) $request['after'] : '';
    helper_reply(tree_hashes(helper_path(0, $inside), $after, !empty($request['modes']), false, $started));
}
$next = ['at' => 0, 'path' => '', 'done' => 0, 'left' => 0];
foreach ($next as $key => $value) {
    $given = isset($request['next'][$key]) ? $request['next'][$key] : $value;
    $next[$key] = $key === 'path' ? (string) $given : (int) $given;
}
$answer = ['next' => $next, 'done' => false, 'waits' => false, 'damaged' => false, 'files' => 0];
$archive = helper_path(0, 'archive.tar');
$in = file_exists($archive) && !is_link($archive) ? fopen($archive, 'r') : false;
while (!$answer['done'] && !helper_time_is_up($started)) {
    $next = $answer['next'];
    $state = $next + ['inside' => $inside, 'file' => null, 'pad' => 0, 'long' => '', 'held' => '', 'ended' => false, 'files' => 0];
    if ($next['left'] > 0) {
        $state['file'] = untar_open($inside, $next['path'], $next['done']);
    }
    $whole = false;
    $inflater = inflate_init(ZLIB_ENCODING_GZIP);
    if ($in !== false) {
        fseek($in, $next['at']);
    }
    while (!$whole && $in !== false && !feof($in)) {
        // An inflated block is a thousand times as long at the most.
        $bytes = inflate_add($inflater, (string) fread($in, 16384));
        if ($bytes === false) {
            $answer['damaged'] = true;
            break;
        }
        $state = untar_take($state, $bytes);
        $whole = inflate_get_status($inflater) === ZLIB_STREAM_END;
    }
    if (!$whole) {
        $answer['waits'] = true;
        break;
    }
    $answer['next'] = [
        'at' => $next['at'] + inflate_get_read_len($inflater),
        'path' => $state['path'],
        'done' => $state['done'],
        'left' => $state['left'],
    ];
    $answer['files'] += $state['files'];
    $answer['done'] = $state['ended'];
}
if ($answer['done'] && !empty($request['all']) && !helper_time_is_up($started)) {
    // Whoever asked for the last piece is told what all of it comes to, too.
    $found = tree_hashes(helper_path(0, $inside), '', true, false, $started);
    $answer['all'] = $found['done'] ? $found['all'] : '';
}
helper_reply($answer);
