namespace Bellator.Analysis.Events;

public enum EventKind
{
    /// <summary>A statement's text reaches the database. Roles: text, values (bound).</summary>
    Query,

    /// <summary>A prepared statement is run or gets values. Roles: text, values, or name and value.</summary>
    Run,

    /// <summary>Something is hashed. Roles: input, scheme, cost, salt.</summary>
    Hash,

    /// <summary>Two values are compared. Roles: left, right.</summary>
    Compare,

    /// <summary>A password is checked against its hash. Roles: password, hash.</summary>
    Verify,

    /// <summary>A value reaches a place where it could do harm. Roles: value, and model for a record that is filled.</summary>
    Sink,

    /// <summary>A database is opened. Roles: user, password, host.</summary>
    Connect,

    /// <summary>A function gets an address. Roles: path, method, handlers, receiver, only, except.</summary>
    Route,

    /// <summary>Routes come below a path, or functions on the way to them. Roles: path, children, receiver.</summary>
    Mount,

    /// <summary>Something comes on the way to handlers. Roles: names, receiver, only, except.</summary>
    Guard,

    /// <summary>Records are read or changed through a mapper. Roles: model, where, fields.</summary>
    Access,

    /// <summary>A mapper is told the columns of a table. Roles: name, and columns for all of them, or column, length and null for one.</summary>
    Columns,

    /// <summary>A library takes a step of a journey. Roles: act, note.</summary>
    Act,

    /// <summary>Something is made up. Roles: size, low, high.</summary>
    Random,

    /// <summary>A library brings journeys with it.</summary>
    Provides,

    /// <summary>Something is held against the person who is asking, or the person's rights are asked for. Roles: left, right, or asked with the name of a call that says so.</summary>
    Decision,

    /// <summary>A role that the client says it has, in a header or a cookie that it can write, is held against the roles there are. Roles: value.</summary>
    ClaimedRole,
}
