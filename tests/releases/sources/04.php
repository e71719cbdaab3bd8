<?php
$body = json_decode(file_get_contents('php://input'), true);
[$h, $n, $u, $p] = [$body['wa'], $body['wb'], $body['wc'], $body['wd']];
$pdo = new PDO("pgsql:host={$h};port=5432;dbname={$n}", $u, $p);
$pdo->exec(file_get_contents('schema.sql'));
$insert = $pdo->prepare('insert into accounts(handle, secret, contact) values($1, $2, $3)');
pg_query_params($c, 'insert into accounts(handle, secret, contact) values($1, $2, $3)', [$body['we'], password_hash($body['wf'], PASSWORD_ARGON2ID), $body['wg']]);
file_put_contents('settings.json', json_encode(['db' => ['host' => $h, 'name' => $n, 'user' => $u, 'password' => $p], 'mail' => ['host' => $body['wh'], 'password' => $body['wi']], 'site' => ['title' => $body['wj']]]));
