class HivesController < ApplicationController
  before_action :set_hive, only: %i[show edit update destroy]

  def index
    @hives = policy_scope(Hive).order(:name)
  end

  def search
    @hives = current_keeper.hives.where("name LIKE '%#{params[:q]}%'") # weak: injection/sql
    @quiet = current_keeper.hives.where("name LIKE ?", "%#{params[:q]}%")
  end

  def show
    authorize @hive
  end

  def edit
    authorize @hive
  end

  def create
    @hive = current_keeper.hives.build(hive_params)
    @hive.save ? redirect_to(@hive) : render(:new)
  end

  def update
    authorize @hive
    @hive.update(params.require(:hive).permit!) # weak: injection/mass-assignment
    redirect_to @hive
  end

  def destroy
    @hive.destroy # weak: records/no-owner-condition
    redirect_to hives_path
  end

  def share
    hive = Hive.find(params[:id]) # weak: records/no-owner-condition
    hive.update(notes: params[:notes])
    redirect_to params[:back] # weak: injection/redirect
  end

  def label
    hive = current_keeper.hives.find(params[:id])
    render html: "<h1>#{hive.name} #{params[:note]}</h1>".html_safe # weak: injection/page-output
  end

  private

  def set_hive
    @hive = Hive.find(params[:id])
  end

  def hive_params
    params.require(:hive).permit(:name, :notes)
  end
end
