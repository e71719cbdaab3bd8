<?php

// Every table, by its name without the prefix.
function tables()
{
    $plain = ['id INT AUTO_INCREMENT PRIMARY KEY', 'label VARCHAR(120) NOT NULL', 'noted DATETIME NOT NULL DEFAULT CURRENT_TIMESTAMP'];
    $all = [
        'people' => ['id INT AUTO_INCREMENT PRIMARY KEY', 'login VARCHAR(60) NOT NULL UNIQUE', 'secret VARCHAR(255) NOT NULL', 'post VARCHAR(40) NOT NULL'],
        'members' => ['id INT AUTO_INCREMENT PRIMARY KEY', 'name VARCHAR(120) NOT NULL', 'boat VARCHAR(120)', 'berth VARCHAR(10)', 'paid_until DATE'],
        'settings' => ['name VARCHAR(60) PRIMARY KEY', 'value TEXT'],
    ];
    foreach (['boats', 'berths', 'piers', 'fees', 'invoices', 'payments', 'letters', 'keys_lent', 'waiting', 'visitors', 'notices', 'winter_places', 'cranes', 'log'] as $name) {
        $all[$name] = $plain;
    }
    return $all;
}

/** Makes what is missing; returns how many there were to make, or a complaint. */
function make_tables($db, $prefix)
{
    $made = 0;
    foreach (tables() as $name => $columns) {
        $sql = "CREATE TABLE IF NOT EXISTS `{$prefix}{$name}` (" . implode(', ', $columns) . ') DEFAULT CHARSET=utf8mb4';
        if (!mysqli_query($db, $sql)) {
            return mysqli_error($db);
        }
        $made++;
    }
    // Somebody has to be able to come in.
    $secret = mysqli_real_escape_string($db, password_hash('ebbandflow', PASSWORD_DEFAULT));
    mysqli_query($db, "INSERT IGNORE INTO `{$prefix}people` (login, secret, post) VALUES ('harbourmaster', '$secret', 'harbour master')");
    return $made;
}
