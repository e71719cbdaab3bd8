
/*
 * An archive may come as its front and as slices, each in a file that is called as the archive with the place of its first byte
 * behind it. They are put where they belong, one after the other, and are gone then.
 */
function join_slices(string $archive, float $started): array
{
    $parts = [];
    foreach (glob($archive . '.*') ?: [] as $part) {
        $parts[(int) substr($part, strlen($archive) + 1)] = $part;
    }
    ksort($parts);
    foreach ($parts as $start => $part) {
        clearstatcache();
        $there = file_exists($archive) ? filesize($archive) : 0;
        $size = filesize($part);
        if ($there < $start) {
            return ['there' => $there, 'stuck' => true];
        }
        // What a request that was cut off has put there already is not put there twice.
        $done = min($size, $there - $start);
        $out = helper_open($archive);
        $in = is_link($part) ? false : fopen($part, 'r');
        if ($out === false || $in === false || fseek($out, $start + $done) !== 0 || fseek($in, $done) !== 0) {
            return ['there' => $there, 'stuck' => true];
        }
        while ($done < $size) {
            if (helper_time_is_up($started)) {
                return ['there' => $start + $done, 'stuck' => false];
            }
            $bytes = (string) fread($in, 1 << 18);
            if ($bytes === '' || fwrite($out, $bytes) !== strlen($bytes)) {
                helper_reply(['error' => 'cannot put the archive together (disk full or quota?)'], 507);
            }
            $done += strlen($bytes);
        }
        fclose($in);
        fclose($out);
        unlink($part);
    }
    clearstatcache();
    return ['there' => filesize($archive), 'stuck' => false];
}
