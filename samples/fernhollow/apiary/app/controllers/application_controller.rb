class ApplicationController < ActionController::Base
  protect_from_forgery with: :exception
  before_action :require_inspector
  helper_method :current_inspector

  private

  def current_inspector
    @current_inspector ||= Inspector.find_by(id: session[:inspector_id])
  end

  def require_inspector
    redirect_to new_session_path unless current_inspector
  end
end
