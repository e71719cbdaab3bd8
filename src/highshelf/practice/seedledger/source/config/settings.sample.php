<?php

// Settings of Seedledger. Locked after the installation (mode 440): unlock, change, lock again.
return [
    'title' => '@title@',
    'time_zone' => '@time_zone@',
    'secret' => '@secret@',
    'database' => [
        'engine' => '@engine@',
        'host' => '@host@',
        'port' => '@port@',
        'name' => '@name@',
        'user' => '@user@',
        'password' => '@password@',
    ],
    // The names this ledger answers to, as a regular expression: dots have a backslash before them.
    // Example: '^(www\.)?seeds\.saltmarsh\.example$'
    'host_pattern' => '^localhost$',
];
