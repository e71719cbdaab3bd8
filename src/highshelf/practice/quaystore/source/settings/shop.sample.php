<?php

// Settings of the shop. The setup makes shop.php out of what you enter; by hand: copy this file to shop.php.
return [
    'title' => 'Quaystore',
    'email' => 'shop@saltmarsh.example',
    'currency' => 'EUR',
    'timezone' => 'UTC',
    'secure' => false,
    'kind' => 'stall',
    // 64 characters that nobody can guess.
    'key' => '',
    'database' => [
        'host' => 'localhost',
        'port' => 0,
        'name' => '',
        'user' => '',
        'password' => '',
        'prefix' => 'q_',
        'tls' => false,
    ],
];
