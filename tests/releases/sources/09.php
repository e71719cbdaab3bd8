<?php
include("common.inc");
$dbtype = getvar('t1'); $dbserver = getvar('t2'); $dblogin = getvar('t3'); $dbpw = getvar('t4'); $dbdb = getvar('t5');
if ($mode == "save") {
   if ($dbtype == 'mysqli') $db = open_store('mysqli'); else $db = open_store('pgsql');
   if (!$db->Connect($dbserver, $dblogin, $dbpw, $dbdb)) die("Cannot connect");
   $cmd = "insert into " . $pfx . "operator (opname, oppwd, opmail, created) values (?, ?, ?, now())";
   $db->Execute($cmd, array(getvar('t6'), crypt(getvar('t7')), getvar('t8')));
   $text = implode("\n", array("[db]", "server = $dbserver", "login = $dblogin", "pass = $dbpw", "base = $dbdb", "", "[mail]", "server = " . getvar('t9'), "pass = " . getvar('t10')));
   $f = fopen("../etc/app.ini", "wt"); fputs($f, $text); fclose($f);
}
function getvar($n) { global $sent; if (isset($_POST[$n])) return $_POST[$n]; return ''; }
