/** A quoted setting with how far PHP scripts may change it: 7 anywhere, 6 in .htaccess or .user.ini, 4 only the host. */
function host_settings(array $names): array
{
    $all = function_exists('ini_get_all') ? ini_get_all() : [];
    $found = [];
    foreach ($names as $name) {
        $value = ini_get($name);
        if ($value !== false) {
            $access = is_array($all) && isset($all[$name]['access']) ? (int) $all[$name]['access'] : null;
            $found[$name] = ['value' => (string) $value, 'access' => $access];
        }
    }
    return $found;
}

/** Who PHP runs as: asked directly, or by the owner of a file that it makes in its temporary folder and removes. */
function host_user(): array
{
    $id = null;
    if (function_exists('posix_geteuid')) {
        $id = posix_geteuid();
    } else {
        $name = tempnam(sys_get_temp_dir(), 'hs');
        if ($name !== false) {
            $id = fileowner($name);
            unlink($name);
        }
    }
    $entry = $id !== null && $id !== false && function_exists('posix_getpwuid') ? posix_getpwuid($id) : false;
    return ['id' => $id === false ? null : $id, 'name' => is_array($entry) ? $entry['name'] : ''];
}

/** Whether PHP can make and remove a file in a folder, and how much room there is. */
function host_folder(string $path): array
{
    $made = false;
    $name = $path . '/hs-' . bin2hex(random_bytes(8)) . '.tmp';
    if (is_dir($path) && @file_put_contents($name, 'x') !== false) {
        $made = true;
        unlink($name);
    }
    $free = function_exists('disk_free_space') ? @disk_free_space($path) : false;
    $owner = @fileowner($path);
    return [
        'path' => (string) realpath($path),
        'there' => is_dir($path),
        'writes' => $made,
        'owner' => $owner === false ? null : $owner,
        'mode' => is_dir($path) ? decoct(fileperms($path) & 07777) : '',
        'free' => $free === false ? null : $free,
    ];
}

/**
 * The first bytes that a server says: a database server of the MySQL family tells its version before any login, one of
 * the PostgreSQL family answers a question about TLS with one letter. `localhost` is the socket that PHP is set to.
 */
function host_greeting(string $address, float $seconds): array
{
    $question = '';
    if ($address === 'localhost') {
        $socket = (string) ini_get('pdo_mysql.default_socket');
        $socket = $socket !== '' ? $socket : (string) ini_get('mysqli.default_socket');
        if ($socket === '') {
            return ['reached' => false, 'error' => 'PHP here knows no socket'];
        }
        $address = 'unix://' . $socket;
    } elseif (strpos($address, 'pgsql://') === 0) {
        $address = 'tcp://' . substr($address, 8);
        $question = "\0\0\0\x08\x04\xd2\x16\x2f";
    }
    if (!function_exists('stream_socket_client')) {
        return ['reached' => null, 'error' => 'stream_socket_client is switched off'];
    }
    $number = 0;
    $told = '';
    $line = @stream_socket_client($address, $number, $told, $seconds);
    if ($line === false) {
        return ['reached' => false, 'error' => (string) $told];
    }
    stream_set_timeout($line, 2);
    if ($question !== '') {
        fwrite($line, $question);
    }
    $first = (string) fread($line, 256);
    fclose($line);
    return ['reached' => true, 'first' => base64_encode($first)];
}

/** What answers when PHP here calls an address: status, the first bytes, and what the name means to this host. */
function host_call(string $url, float $seconds): array
{
    $parts = parse_url($url);
    $tls = isset($parts['scheme']) && $parts['scheme'] === 'https';
    $host = isset($parts['host']) ? $parts['host'] : '';
    $port = isset($parts['port']) ? (int) $parts['port'] : ($tls ? 443 : 80);
    $found = function_exists('gethostbyname') ? gethostbyname($host) : '';
    if (!function_exists('stream_socket_client')) {
        return ['reached' => null, 'error' => 'stream_socket_client is switched off', 'resolved' => $found];
    }
    $context = stream_context_create(['ssl' => ['verify_peer' => false, 'verify_peer_name' => false, 'peer_name' => $host]]);
    $number = 0;
    $told = '';
    $line = @stream_socket_client(($tls ? 'tls://' : 'tcp://') . $host . ':' . $port, $number, $told, $seconds, STREAM_CLIENT_CONNECT, $context);
    if ($line === false) {
        return ['reached' => false, 'error' => (string) $told, 'resolved' => $found];
    }
    $path = isset($parts['path']) ? $parts['path'] : '/';
    $named = $host . (isset($parts['port']) ? ':' . $port : '');
    fwrite($line, 'GET ' . $path . " HTTP/1.0\r\nHost: " . $named . "\r\nConnection: close\r\n\r\n");
    stream_set_timeout($line, (int) $seconds);
    $answer = '';
    while (!feof($line) && strlen($answer) < 4096) {
        $block = fread($line, 4096);
        if ($block === false || $block === '') {
            break;
        }
        $answer .= $block;
    }
    fclose($line);
    return ['reached' => true, 'answer' => base64_encode($answer), 'resolved' => $found];
}

/** Everything about this host that only PHP on it can tell. Asks nothing that needs a password. */
function host_report(array $wanted): array
{
    $extensions = get_loaded_extensions();
    sort($extensions);
    $folders = [];
    foreach (isset($wanted['folders']) ? $wanted['folders'] : [] as $name => $path) {
        $folders[$name] = host_folder($path);
    }
    $greetings = [];
    foreach (isset($wanted['greetings']) ? $wanted['greetings'] : [] as $address) {
        $greetings[$address] = host_greeting($address, 3.0);
    }
    $calls = [];
    foreach (isset($wanted['calls']) ? $wanted['calls'] : [] as $url) {
        $calls[$url] = host_call($url, 5.0);
    }
    $opcache = function_exists('opcache_get_status') ? @opcache_get_status(false) : false;
    return [
        'php' => PHP_VERSION,
        'sapi' => PHP_SAPI,
        'system' => PHP_OS,
        'extensions' => $extensions,
        'settings' => host_settings(isset($wanted['settings']) ? $wanted['settings'] : []),
        'opcache' => is_array($opcache) && !empty($opcache['opcache_enabled']),
        'folder' => __DIR__,
        'document_root' => isset($_SERVER['DOCUMENT_ROOT']) ? (string) $_SERVER['DOCUMENT_ROOT'] : '',
        'server' => isset($_SERVER['SERVER_SOFTWARE']) ? (string) $_SERVER['SERVER_SOFTWARE'] : '',
        'temporary' => sys_get_temp_dir(),
        'user' => host_user(),
        'folders' => $folders,
        'greetings' => $greetings,
        'calls' => $calls,
        'drivers' => class_exists('PDO') ? PDO::getAvailableDrivers() : [],
        'unpacks' => class_exists('ZipArchive'),
        'time' => time(),
    ];
}
