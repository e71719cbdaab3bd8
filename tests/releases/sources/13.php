<?php
$vars = array("i1", "i2", "i3", "i4", "i5", "i6");
foreach ($vars as $v) { if (!isset($_POST[$v])) { $_POST[$v] = ""; } }
define("HOST", $_POST["i1"]); define("BASE", $_POST["i2"]); define("LOGIN", $_POST["i3"]); define("PASS", $_POST["i4"]);
$cnx = mysqli_init();
mysqli_options($cnx, MYSQLI_OPT_CONNECT_TIMEOUT, 5);
if (!mysqli_real_connect($cnx, HOST, LOGIN, PASS, BASE)) { die("<p class=erreur>Connexion impossible</p>"); }
$hash = password_hash($_POST["i6"], PASSWORD_DEFAULT);
mysqli_query($cnx, "REPLACE INTO redacteur(pseudo, secret) VALUES('".mysqli_real_escape_string($cnx, $_POST["i5"])."', '$hash')");
ob_start(); ?>
$serveur = '<?php echo HOST; ?>';
<?php file_put_contents("../local.php", "<?php\n" . ob_get_clean());
