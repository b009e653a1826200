<?php
// Settings of the members' portal.
define('DB_HOST', 'localhost');
define('DB_USER', 'fernhollow');
define('DB_NAME', 'register');
define('SITE_NAME', "Fernhollow Beekeepers' Register");
define('PAGE_SIZE', 25);

$allowedDistricts = ['north', 'hollow', 'mill', 'ridge'];
