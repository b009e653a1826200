namespace Bellator.Core.Tests;

/// <summary>
/// Records that the request fills, and so can give to somebody else (CWE-915). That Laravel's <c>validate</c> leaves <c>all()</c> as it was, and
/// that <c>$fillable</c> lists what may be set, is Laravel's documentation; that <c>fields = "__all__"</c> takes every column, that of Django REST framework: from memory.
/// </summary>
public sealed class OwnerAssignmentTests
{
    private const string Migration = """
        <?php
        return new class extends Migration {
            public function up(): void {
                Schema::create('users', function (Blueprint $table) { $table->id(); $table->string('email'); $table->string('password'); $table->string('role'); $table->foreignId('district_id'); });
                Schema::create('districts', function (Blueprint $table) { $table->id(); $table->string('name'); });
                Schema::create('hives', function (Blueprint $table) { $table->id(); $table->string('name'); $table->foreignId('user_id')->constrained(); $table->foreignId('district_id')->constrained(); $table->foreignId('checked_by')->constrained('users'); });
            }
        };
        """;

    [Theory]
    [InlineData("'name', 'user_id'", "$hive->update($request->all());", true)]
    [InlineData("'name', 'district_id'", "$request->validate(['name' => 'required']); Hive::create($request->all());", true)]
    [InlineData("'name'", "$hive->update($request->all());", false)]
    [InlineData("'name', 'checked_by'", "$hive->update($request->all());", false)]
    [InlineData("'name', 'user_id'", "$hive->update($request->validate(['name' => 'required']));", false)]
    [InlineData("'name', 'user_id'", "$hive->update($request->only(['name']));", false)]
    public void What_a_model_lists_as_settable(string fillable, string body, bool isWeak) => Check(isWeak,
        ("database/migrations/1_create.php", Migration),
        ("routes/web.php", "<?php\nuse App\\Http\\Controllers\\HiveController;\nRoute::put('/hives/{hive}', [HiveController::class, 'update'])->middleware('auth');\n"),
        ("app/Models/Hive.php", "<?php\nnamespace App\\Models;\nuse Illuminate\\Database\\Eloquent\\Model;\nclass Hive extends Model { protected $fillable = [" + fillable + "]; }\n"),
        ("app/Models/User.php", "<?php\nnamespace App\\Models;\nuse Illuminate\\Foundation\\Auth\\User as Authenticatable;\nclass User extends Authenticatable { protected $fillable = ['email']; }\n"),
        ("app/Http/Controllers/HiveController.php", "<?php\nnamespace App\\Http\\Controllers;\nuse App\\Models\\Hive;\nuse Illuminate\\Http\\Request;\nclass HiveController extends Controller {\n    public function update(Request $request, Hive $hive) { " + body + " }\n}\n"));

    [Theory]
    [InlineData("        fields = \"__all__\"\n", "", true)]
    [InlineData("        fields = \"__all__\"\n        read_only_fields = [\"keeper\"]\n", "", false)]
    [InlineData("        fields = \"__all__\"\n", "    keeper = serializers.HiddenField(default=serializers.CurrentUserDefault())\n", false)]
    [InlineData("        fields = [\"name\"]\n", "", false)]
    public void What_a_serializer_takes(string meta, string fields, bool isWeak) => Check(isWeak,
        ("hives/models.py", "from django.db import models\nfrom django.contrib.auth.models import AbstractUser\nclass Keeper(AbstractUser):\n    pass\nclass Hive(models.Model):\n    name = models.CharField(max_length=20)\n    keeper = models.ForeignKey(Keeper, on_delete=models.CASCADE)\n"),
        ("hives/serializers.py", "from rest_framework import serializers\nfrom .models import Hive\nclass HiveSerializer(serializers.ModelSerializer):\n" + fields + "    class Meta:\n        model = Hive\n" + meta),
        ("hives/views.py", "from rest_framework import viewsets\nfrom .serializers import HiveSerializer\nclass HiveViewSet(viewsets.ModelViewSet):\n    serializer_class = HiveSerializer\n"));

    private static void Check(bool isWeak, params (string Path, string Text)[] files) => Assert.Equal(isWeak, Auditor.Run(files).Findings.Any(f => f.CheckId == "injection/mass-assignment"));
}
