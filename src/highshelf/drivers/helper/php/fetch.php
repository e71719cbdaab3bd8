/*
 * Fetches one archive from the address that its makers publish it at, a piece a request, and goes on where the last one stopped.
 * The administrator compares its SHA-256 before anything is unpacked.
 */

/** A piece by PHP's curl; what went wrong, or "". A piece whose time was over is fine. */
function fetch_with_curl(string $address, string $path, int $from, int $seconds): string
{
    $out = helper_open($path);
    if ($out === false || fseek($out, 0, SEEK_END) !== 0) {
        return 'the archive cannot be written';
    }
    $curl = curl_init($address);
    curl_setopt($curl, CURLOPT_FILE, $out);
    curl_setopt($curl, CURLOPT_RESUME_FROM, $from);
    curl_setopt($curl, CURLOPT_FAILONERROR, true);
    curl_setopt($curl, CURLOPT_FOLLOWLOCATION, true);
    curl_setopt($curl, CURLOPT_MAXREDIRS, 5);
    curl_setopt($curl, CURLOPT_CONNECTTIMEOUT, 10);
    curl_setopt($curl, CURLOPT_TIMEOUT, $seconds);
    $fine = curl_exec($curl);
    $why = $fine || curl_errno($curl) === CURLE_OPERATION_TIMEDOUT ? '' : curl_error($curl);
    if ($from > 0 && curl_getinfo($curl, CURLINFO_HTTP_CODE) === 200) {
        // The whole again instead of the rest: such a server would have to be quick.
        ftruncate($out, 0);
        $why = 'the server gives no parts';
    }
    fclose($out);
    return $why;
}

/** The same by PHP's own streams, where the host lets them open addresses. */
function fetch_with_streams(string $address, string $path, int $from, float $started, int $seconds): string
{
    $asked = stream_context_create(['http' => ['header' => 'Range: bytes=' . $from . '-', 'timeout' => 10, 'max_redirects' => 5]]);
    $in = fopen($address, 'r', false, $asked);
    $out = helper_open($path);
    if ($in === false || $out === false || fseek($out, 0, SEEK_END) !== 0) {
        return 'the address cannot be opened';
    }
    $answer = stream_get_meta_data($in);
    if ($from > 0 && strpos(implode(' ', (array) $answer['wrapper_data']), ' 206') === false) {
        return 'the server gives no parts';
    }
    while (!feof($in) && microtime(true) - $started < $seconds) {
        if (fwrite($out, (string) fread($in, 65536)) === false) {
            return 'the archive cannot be written';
        }
    }
    fclose($in);
    fclose($out);
    return '';
}

$request = helper_request();
$started = microtime(true);
$address = isset($request['address']) ? (string) $request['address'] : '';
$size = isset($request['size']) ? (int) $request['size'] : 0;
$path = helper_path(0, 'archive.zip');
if (!preg_match('~^https?://~', $address)) {
    helper_reply(['error' => 'no address'], 400);
}
$from = file_exists($path) ? (int) filesize($path) : 0;
$why = '';
if ($from < $size || $size === 0) {
    if (function_exists('curl_init')) {
        $why = fetch_with_curl($address, $path, $from, 2);
    } elseif (ini_get('allow_url_fopen')) {
        $why = fetch_with_streams($address, $path, $from, $started, 2);
    } else {
        helper_reply(['error' => 'PHP here has no way to fetch'], 501);
    }
}
clearstatcache();
$there = file_exists($path) ? (int) filesize($path) : 0;
helper_reply(['there' => $there, 'why' => $why, 'sha256' => $there === $size ? hash_file('sha256', $path) : '']);
