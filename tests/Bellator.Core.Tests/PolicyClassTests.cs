namespace Bellator.Core.Tests;

/// <summary>Classes that a framework asks whether somebody may do something to a record; how each finds them is from its documentation, from memory.</summary>
public sealed class PolicyClassTests
{
    private const string Migration = """
        <?php
        use Illuminate\Database\Migrations\Migration;
        use Illuminate\Database\Schema\Blueprint;
        use Illuminate\Support\Facades\Schema;
        return new class extends Migration {
            public function up(): void {
                Schema::create('users', function (Blueprint $table) { $table->id(); $table->string('email')->unique(); $table->string('password'); $table->boolean('is_inspector')->default(false); });
                Schema::create('hives', function (Blueprint $table) { $table->id(); $table->string('label'); $table->foreignId('keeper_id')->constrained('users'); });
            }
        };
        """;

    private const string Routes = "<?php\nuse App\\Http\\Controllers\\HiveController;\nuse Illuminate\\Support\\Facades\\Route;\nRoute::middleware('auth')->group(function () { Route::put('/hives/{hive}', [HiveController::class, 'update']); });\n";

    private const string Models = "<?php\nnamespace App\\Models;\nuse Illuminate\\Database\\Eloquent\\Model;\nclass Hive extends Model { protected $fillable = ['label']; }\nclass User extends Model { protected $fillable = ['email']; }\n";

    [Theory]
    [InlineData("$this->authorize('update', $hive);", "own")]
    [InlineData("Gate::authorize('update', $hive);", "own")]
    [InlineData("if ($request->user()->cannot('update', $hive)) { abort(403); }", "own")]
    [InlineData("if (!auth()->user()->can('update', $hive)) { abort(403); }", "own")]
    [InlineData("if (Gate::denies('update', $hive)) { abort(403); }", "own")]
    [InlineData("abort_unless($this->mine($request->user(), $hive), 403);", "own")]
    [InlineData("Gate::authorize('rename-hive', $hive);", "own")]
    [InlineData("$this->authorize('move', $hive);", "role")]
    [InlineData("$this->authorize('archive', $hive);", "unclear")]
    [InlineData("", "chosen")]
    public void A_policy_of_the_programs_decides_about_the_record(string asked, string rows)
    {
        var result = Auditor.Run(("database/migrations/2024_01_01_000000_create.php", Migration), ("routes/web.php", Routes), ("app/Models/Hive.php", Models),
            ("app/Providers/AppServiceProvider.php", "<?php\nnamespace App\\Providers;\nuse Illuminate\\Support\\Facades\\Gate;\nclass AppServiceProvider { public function boot(): void { Gate::define('rename-hive', fn ($user, $hive) => $user->id === $hive->keeper_id); } }\n"),
            ("app/Policies/HivePolicy.php", """
                <?php
                namespace App\Policies;
                use App\Models\{Hive, User};
                class HivePolicy {
                    public function update(User $user, Hive $hive): bool { return $user->id === $hive->keeper_id; }
                    public function move(User $user, Hive $hive): bool { return $user->is_inspector; }
                    public function archive(User $user, Hive $hive): bool { return elsewhere($hive); }
                }
                """),
            ("app/Http/Controllers/HiveController.php", "<?php\nnamespace App\\Http\\Controllers;\nuse App\\Models\\{Hive, User};\nuse Illuminate\\Http\\Request;\nuse Illuminate\\Support\\Facades\\Gate;\nclass HiveController extends Controller {\n  private function mine(User $user, Hive $hive): bool { return $user->id === $hive->keeper_id; }\n  public function update(Request $request, Hive $hive) {\n    " + asked + "\n    $hive->update(['label' => $request->input('label')]);\n    return redirect('/hives');\n  }\n}\n"));
        Assert.Equal(rows, result.Records.Uses.Single(u => u is { Table: "hives", Action: "edit" }).Rows);
        Assert.DoesNotContain(result.Findings, f => f.Check.Id == "records/check-ignored");
    }

    [Theory]
    [InlineData("$this->denyAccessUnlessGranted('HIVE_EDIT', $hive);", "own")]
    [InlineData("if (!$this->isGranted('HIVE_EDIT', $hive)) { throw $this->createAccessDeniedException(); }", "own")]
    [InlineData("", "chosen")]
    public void A_voter_decides_about_the_record(string asked, string rows)
    {
        var result = Auditor.Run(
            ("src/Entity/Hive.php", """
                <?php
                namespace App\Entity;
                use Doctrine\ORM\Mapping as ORM;
                #[ORM\Entity]
                #[ORM\Table(name: 'hives')]
                class Hive {
                    #[ORM\Id, ORM\GeneratedValue, ORM\Column]
                    private ?int $id = null;
                    #[ORM\Column(length: 80)]
                    private string $label = '';
                    #[ORM\ManyToOne(inversedBy: 'hives')]
                    #[ORM\JoinColumn(nullable: false)]
                    private ?Keeper $keeper = null;
                    public function getKeeper(): ?Keeper { return $this->keeper; }
                    public function setKeeper(?Keeper $keeper): static { $this->keeper = $keeper; return $this; }
                }
                """),
            ("src/Entity/Keeper.php", "<?php\nnamespace App\\Entity;\nuse Doctrine\\ORM\\Mapping as ORM;\n#[ORM\\Entity]\nclass Keeper {\n  #[ORM\\Id, ORM\\Column]\n  private ?int $id = null;\n  #[ORM\\Column(length: 180)]\n  private string $email = '';\n  #[ORM\\Column]\n  private string $password = '';\n}\n"),
            ("src/Security/HiveVoter.php", """
                <?php
                namespace App\Security;
                use App\Entity\{Hive, Keeper};
                use Symfony\Component\Security\Core\Authentication\Token\TokenInterface;
                use Symfony\Component\Security\Core\Authorization\Voter\Voter;
                final class HiveVoter extends Voter {
                    protected function supports(string $attribute, mixed $subject): bool { return $attribute === 'HIVE_EDIT' && $subject instanceof Hive; }
                    protected function voteOnAttribute(string $attribute, mixed $subject, TokenInterface $token): bool {
                        $keeper = $token->getUser();
                        if (!$keeper instanceof Keeper) { return false; }
                        return $subject->getKeeper() === $keeper;
                    }
                }
                """),
            ("src/Controller/HiveController.php", """
                <?php
                namespace App\Controller;
                use App\Entity\Hive;
                use Doctrine\ORM\EntityManagerInterface;
                use Symfony\Bundle\FrameworkBundle\Controller\AbstractController;
                use Symfony\Component\HttpFoundation\Response;
                use Symfony\Component\Routing\Attribute\Route;
                class HiveController extends AbstractController {
                    #[Route('/hives', methods: ['POST'])]
                    public function make(EntityManagerInterface $em): Response {
                        $hive = new Hive();
                        $hive->setKeeper($this->getUser());
                        $em->persist($hive);
                        $em->flush();
                        return new Response();
                    }
                    #[Route('/hives/{id}/delete', methods: ['POST'])]
                    public function delete(Hive $hive, EntityManagerInterface $em): Response {
                        ASKED
                        $em->remove($hive);
                        $em->flush();
                        return new Response();
                    }
                }
                """.Replace("ASKED", asked, StringComparison.Ordinal)));
        Assert.Equal(rows, result.Records.Uses.First(u => u is { Table: "hives", Action: "view" }).Rows);
    }

    [Theory]
    [InlineData("authorize @loom", "own")]
    [InlineData("@loom = authorize Loom.find(params[:id])", "own")]
    [InlineData("raise 'no' unless policy(@loom).update?", "own")]
    [InlineData("authorize @loom, :destroy?", "role")]
    [InlineData("@loom.name.strip", "chosen")]
    public void A_plain_class_made_of_the_person_and_the_record_decides(string asked, string rows)
    {
        var result = Auditor.Run(
            ("config/routes.rb", "Rails.application.routes.draw do\n  resources :looms, only: [:index, :update]\nend\n"),
            ("db/schema.rb", "ActiveRecord::Schema[7.1].define(version: 2024_01_01) do\n  create_table \"weavers\" do |t|\n    t.string \"email\", null: false\n    t.string \"password_digest\", null: false\n    t.boolean \"warden\", default: false\n  end\n  create_table \"looms\" do |t|\n    t.string \"name\"\n    t.bigint \"weaver_id\", null: false\n  end\nend\n"),
            ("app/models/weaver.rb", "class Weaver < ApplicationRecord\n  has_secure_password\n  has_many :looms\nend\n"),
            ("app/models/loom.rb", "class Loom < ApplicationRecord\n  belongs_to :weaver\nend\n"),
            ("app/policies/application_policy.rb", "class ApplicationPolicy\n  attr_reader :user, :record\n  def initialize(user, record)\n    @user = user\n    @record = record\n  end\n  def update? = owner?\n  def owner?\n    record.weaver == user\n  end\nend\n"),
            ("app/policies/loom_policy.rb", "class LoomPolicy < ApplicationPolicy\n  def destroy?\n    user.warden?\n  end\nend\n"),
            ("app/controllers/application_controller.rb", "class ApplicationController < ActionController::Base\n  before_action :require_weaver\n  def current_user\n    @current_user ||= Weaver.find_by(id: session[:weaver_id])\n  end\n  def require_weaver\n    redirect_to new_session_path unless current_user\n  end\nend\n"),
            ("app/controllers/looms_controller.rb", "class LoomsController < ApplicationController\n  def index\n    @looms = policy_scope(Loom)\n  end\n  def update\n    @loom = Loom.find(params[:id])\n    " + asked + "\n    @loom.update!(params.require(:loom).permit(:name))\n    redirect_to @loom\n  end\nend\n"));
        Assert.Equal(rows, result.Records.Uses.Last(u => u is { Table: "looms", Action: "edit" }).Rows);
        Assert.Equal("unclear", result.Records.Uses.Single(u => u is { Table: "looms", Action: "list" }).Rows);
    }
}
