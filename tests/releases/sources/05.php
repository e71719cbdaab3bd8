<?php
require 'inc/functions.php';
$fields = array('qa', 'qb', 'qc', 'qd', 'qe', 'qf', 'qg');
foreach ($fields as $f) {
    $data[$f] = isset($_POST[$f]) ? stripslashes($_POST[$f]) : '';
}
extract($data, EXTR_PREFIX_ALL, 'in');
$conn = new mysqli();
$conn->connect($in_qa, $in_qb, $in_qc);
if (!$conn->select_db($in_qd)) { $conn->query("CREATE DATABASE `$in_qd` CHARACTER SET utf8mb4"); }
$tpl = file_get_contents('config.tpl.php');
$tpl = strtr($tpl, array('{DB_SERVER}' => $data['qa'], '{DB_LOGIN}' => $data['qb'], '{DB_PASS}' => $data['qc'], '{DB_NAME}' => $data['qd']));
$h = fopen('config.php', 'w'); fwrite($h, $tpl);
create_admin($in_qe, $in_qf, $in_qg);
function create_admin($login, $password, $email) {
    global $conn;
    $password = sha1(SALT . $password);
    $conn->query(sprintf("INSERT INTO operators (login_name, login_hash, mailbox) VALUES ('%s', '%s', '%s')", $login, $password, $email));
}
