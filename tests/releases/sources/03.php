<?php
// install.php of old
foreach ($_POST as $key => $value) { $$key = addslashes(trim($value)); }
if ($go) {
  $link = @mysql_connect($m1, $m2, $m3) or die("No");
  mysql_select_db($m4, $link);
  $sqls = file('tables.sql');
  foreach ($sqls as $s) mysql_query(str_replace('PREFIX_', $m5, $s));
  mysql_query("INSERT INTO {$m5}people VALUES (1, '$m6', '" . md5($m7) . "', '$m8', 1)");
  mysql_query("UPDATE {$m5}setup SET v='$m9' WHERE k='title'");
  $fd = fopen("../conf.inc.php", "w");
  fputs($fd, "<?php\n");
  fputs($fd, "\$dbserver = \"$m1\";\n\$dbuser = \"$m2\";\n\$dbpasswd = \"$m3\";\n\$dbname = \"$m4\";\n\$tableprefix = \"$m5\";\n");
  fclose($fd);
}
