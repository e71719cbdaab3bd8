<?php

// Moorings: settings. The wizard makes this file as config.inc.php; by hand, copy it and fill it in.
return array(
    'server' => 'localhost',
    'database' => '',
    'login' => '',
    'word' => '',
    'prefix' => 'moor_',
    'licence' => '',
    // Any long row of letters and digits.
    'salt' => '',
);
