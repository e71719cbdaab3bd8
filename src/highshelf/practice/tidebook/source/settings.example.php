<?php

// The installer writes this file as settings.php. By hand: copy it, fill it in, make it readable to the web server only.
return [
    'title' => 'Tidebook',
    'language' => 'en',
    'secret' => '',
    'database' => [
        'host' => 'localhost',
        'port' => 3306,
        'name' => '',
        'user' => '',
        'password' => '',
        'prefix' => 'tb_',
    ],
    'folders' => [
        'pictures' => 'data',
    ],
];
