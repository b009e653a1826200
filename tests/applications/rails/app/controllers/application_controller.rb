class ApplicationController < ActionController::Base
  before_action :require_keeper

  helper_method :current_keeper

  private

  def current_keeper
    @current_keeper ||= Keeper.find_by(id: session[:keeper_id])
  end

  def require_keeper
    redirect_to sign_in_path unless current_keeper
  end
end
