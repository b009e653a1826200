namespace Bellator.Core.Tests;

/// <summary>The person who asks is a record of the accounts' class: methods of the class, its mapper's and its relations mean what they mean on any other.</summary>
public sealed class PersonRecordTests
{
    [Theory]
    [InlineData("  def sign_out_everywhere\n    increment!(:stamp)\n    keep_tokens.delete_all\n  end\n", false)]
    [InlineData("  def sign_out_everywhere\n    touch\n  end\n", true)]
    public void Methods_and_relations_of_the_person(string method, bool isWeak) => Assert.Equal(isWeak, Auditor.Run(
        ("db/schema.rb", """
            ActiveRecord::Schema[7.1].define do
              create_table "users" do |t|
                t.string "email", null: false
                t.string "password_digest", null: false
                t.integer "stamp", default: 0, null: false
              end
              create_table "keep_tokens" do |t|
                t.bigint "user_id", null: false
                t.string "digest", null: false
              end
            end
            """),
        ("config/routes.rb", "Rails.application.routes.draw do\n  resource :password, only: [:edit, :update]\nend\n"),
        ("app/models/user.rb", "class User < ApplicationRecord\n  has_secure_password\n  has_many :keep_tokens\n" + method + "end\n"),
        ("app/models/keep_token.rb", "class KeepToken < ApplicationRecord\n  belongs_to :user\nend\n"),
        ("app/models/current.rb", "class Current < ActiveSupport::CurrentAttributes\n  attribute :user\nend\n"),
        ("app/controllers/application_controller.rb", "class ApplicationController < ActionController::Base\n  before_action :sign_in_first\n  def sign_in_first\n    Current.user = User.find_by(id: session[:user_id])\n    redirect_to \"/sign-in\" unless Current.user\n  end\nend\n"),
        ("app/controllers/passwords_controller.rb", """
            class PasswordsController < ApplicationController
              def update
                if Current.user.authenticate(params[:current_password]) && Current.user.update(password: params[:password])
                  Current.user.sign_out_everywhere
                  redirect_to "/"
                end
              end
            end
            """)).Findings.Any(f => f.CheckId == "sessions/session-survives-password-change"));
}
