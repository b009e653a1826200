<?php
class Db
{
    private static ?PDO $pdo = null;

    public static function get(): PDO
    {
        if (self::$pdo === null) {
            self::$pdo = new PDO('mysql:host=localhost;dbname=hives', 'hives', getenv('DB_PASS'));
        }
        return self::$pdo;
    }
}
