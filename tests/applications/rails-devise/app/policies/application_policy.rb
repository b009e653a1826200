class ApplicationPolicy
  attr_reader :keeper, :record

  def initialize(keeper, record)
    @keeper = keeper
    @record = record
  end

  class Scope
    attr_reader :keeper, :scope

    def initialize(keeper, scope)
      @keeper = keeper
      @scope = scope
    end
  end
end
