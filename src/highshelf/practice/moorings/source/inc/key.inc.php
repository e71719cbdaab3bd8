<?php

// Licence keys: MRG-XXXX-XXXX-XXXX-C. The last letter belongs to the twelve before it.
define('KEY_LETTERS', 'ABCDEFGHJKMNPQRSTUVWXYZ');

/** What is wrong with a key, or "". */
function key_trouble($key)
{
    $key = strtoupper(trim($key));
    if ($key === '') {
        return 'Please enter your licence key. It stands in the letter that came with your order.';
    }
    if (strlen($key) < 20) {
        return 'This licence key is cut: it has ' . strlen($key) . ' characters, a whole one has 20.';
    }
    if (!preg_match('/^MRG(-[A-Z2-9]{4}){3}-[A-Z]$/', $key)) {
        return 'This is no licence key of Moorings. It looks like MRG-XXXX-XXXX-XXXX-X.';
    }
    $sum = 0;
    foreach (str_split(str_replace('-', '', substr($key, 4, 14))) as $place => $letter) {
        $sum += ord($letter) * ($place + 3);
    }
    return KEY_LETTERS[$sum % strlen(KEY_LETTERS)] === substr($key, -1) ? '' : 'This licence key is not right. Please mind every letter.';
}
