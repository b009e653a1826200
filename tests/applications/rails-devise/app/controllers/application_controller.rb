class ApplicationController < ActionController::Base
  include Pundit::Authorization
  before_action :authenticate_keeper!
  rescue_from Pundit::NotAuthorizedError, with: :forbidden

  private

  def pundit_user = current_keeper

  def forbidden
    redirect_to root_path, alert: "Not allowed"
  end
end
