class ApplicationController < ActionController::Base
  before_action :require_login
  helper_method :current_keeper
  def current_keeper
    @current_keeper ||= Keeper.find_by(id: session[:keeper_id])
  end
  def require_login
    redirect_to new_session_path unless current_keeper
  end
end
