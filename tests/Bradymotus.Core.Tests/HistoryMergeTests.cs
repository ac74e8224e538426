using Bradymotus.Core.Editing;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Tests;

/// <summary>Several windows, one journal; answers that are lost; states that are made again.</summary>
public class HistoryMergeTests
{
    private static readonly ChannelAddress Lift = Shots.At("base/transform.translate.y"), Swing = Shots.At("arm/transform.rotate.z");

    private static EditEntry Set(ChannelAddress address, double value, string id) => new(new SetValues([new(address, value)])) { Id = id };

    private static (double, double) Now(History history) => (history.Current.Channel(Lift).Value, history.Current.Channel(Swing).Value);

    private static (IReadOnlyList<JournalEntry> Pending, int Dropped) Merge(ref History history, int confirmed, IReadOnlyList<JournalEntry> missed)
    {
        (history, var pending, var dropped) = history.Merge(confirmed, missed);
        return (pending, dropped);
    }

    [Fact]
    public void A_jump_over_several_steps_takes_back_what_it_took_back_and_nothing_of_others()
    {
        var history = new History(Shots.Crane());
        history.Append(Set(Lift, 5, "a"));
        history.Append(Set(Lift, 6, "b"));
        history.Append(new RestoreEntry(0) { Id = "jump" });
        var (pending, dropped) = Merge(ref history, 0, [Set(Swing, 9, "theirs")]);
        Assert.Equal(0, dropped);
        Assert.Equal((1, 9), Now(history));
        Assert.Equal(["a", "b", "jump", "jump.2"], pending.Select(p => p.Id));
        // Redo brings back one after the other, the first first.
        history.Append(history.Redo!.Value.Entry);
        Assert.Equal((5, 9), Now(history));
        history.Append(history.Redo!.Value.Entry);
        Assert.Equal((6, 9), Now(history));
    }

    [Fact]
    public void A_jump_to_a_state_beside_the_newest_brings_that_one_back()
    {
        var history = new History(Shots.Crane());
        history.Append(Set(Lift, 5, "a"));
        history.Append(new RestoreEntry(0) { Id = "u" });
        history.Append(Set(Swing, 6, "b"));
        history.Append(new RestoreEntry(0) { Id = "v" });
        history.Append(new RestoreEntry(1) { Id = "go" });
        Merge(ref history, 0, [Set(Shots.At("base/transform.translate.x"), 9, "theirs")]);
        Assert.Equal((5, 90), Now(history));
        Assert.Equal(9, history.Current.Channel(Shots.At("base/transform.translate.x")).Value);
    }

    [Fact]
    public void A_change_on_a_branch_that_is_stored_already_is_done_again_after_others()
    {
        var history = new History(Shots.Crane());
        history.Append(Set(Lift, 5, "a"));
        history.Append(new RestoreEntry(0) { Id = "u" });
        history.Append(Set(Swing, 6, "b"));
        history.Append(new RestoreEntry(1) { Id = "go" });
        Merge(ref history, 3, [Set(Shots.At("base/transform.translate.x"), 9, "theirs")]);
        Assert.Equal((5, 90), Now(history));
        Assert.Equal(9, history.Current.Channel(Shots.At("base/transform.translate.x")).Value);
    }

    [Fact]
    public void A_merge_that_fails_half_way_has_done_nothing()
    {
        var history = new History(Shots.Crane());
        history.Append(Set(Lift, 5, "a"));
        Assert.ThrowsAny<Exception>(() => history.Merge(0, [Set(Swing, 9, "theirs"), null!]));
        Assert.Equal((1, (5d, 90d)), (history.Revision, Now(history)));
        var (pending, _) = Merge(ref history, 0, [Set(Swing, 9, "theirs")]);
        Assert.Equal(["a"], pending.Select(p => p.Id));
        Assert.Equal((5, 9), Now(history));
    }

    [Fact]
    public void Redo_brings_back_nothing_of_another_window()
    {
        var history = new History(Shots.Crane());
        history.Append(Set(Swing, 7, "theirs"), isForeign: true);
        history.Append(new RestoreEntry(0) { Id = "theirs too" }, isForeign: true);
        Assert.Null(history.Redo);
    }

    [Fact]
    public void Lines_that_were_kept_are_put_in_where_they_were_made()
    {
        // A, undo and B were not seen stored; meanwhile another window has done something.
        var opened = new History(Shots.Crane());
        opened.Append(Set(Swing, 7, "theirs"));
        var (history, pending, dropped) = opened.Resume(0, [Set(Lift, 5, "a"), new RestoreEntry(0) { Id = "u" }, Set(Lift, 6, "b")]);
        Assert.Equal((3, 0), (pending.Count, dropped));
        Assert.Equal((6, 7), Now(history));
        // Of lines made before the oldest state at hand, only what speaks of no number can be taken.
        var late = new History(Shots.Crane(), revision: 40);
        var (put, sent, lost) = late.Resume(12, [Set(Lift, 5, "a"), new LeaveOutEntry(13) { Id = "u" }]);
        Assert.Equal((1, 1), (sent.Count, lost));
        Assert.Equal((5, 90), Now(put));
    }

    [Fact]
    public void Two_windows_that_undo_in_turn_make_no_old_state_slow()
    {
        var history = new History(Shots.Crane());
        for (var i = 0; i < 400; i++)
        {
            history.Append(Set(i % 2 == 0 ? Lift : Swing, i, $"{i}"), isForeign: i % 2 == 1);
        }
        for (var i = 0; i < 200; i++)
        {
            history.Append(history.Undo!.Value.Entry);
        }
        Assert.Equal((1, 399), Now(history));
        // Counted, not timed: what was exponential before would never end.
        for (var revision = 0; revision <= history.Revision; revision += 7)
        {
            history.StateAt(revision);
        }
        Assert.Equal((198, 399), (history.StateAt(500).Channel(Lift).Value, history.StateAt(500).Channel(Swing).Value));
        // In another order too: all that were left out are brought back, the oldest first.
        while (history.Redo is { } redo)
        {
            history.Append(redo.Entry);
        }
        Assert.Equal((398, 399), Now(history));
    }

    [Fact]
    public void Undo_takes_back_what_was_done_here_and_not_what_another_window_has_done()
    {
        var history = new History(Shots.Crane());
        history.Append(Set(Lift, 5, "ours"));
        history.Append(Set(Swing, 7, "theirs"), isForeign: true);
        Assert.Equal(new LeaveOutEntry(1), history.Undo!.Value.Entry);
        history.Append(history.Undo.Value.Entry);
        Assert.Equal((1, 7), Now(history));
        Assert.Null(history.Undo);
        history.Append(history.Redo!.Value.Entry);
        Assert.Equal((5, 7), Now(history));
        history.Append(history.Undo!.Value.Entry);
        Assert.Equal((1, 7), Now(history));
        // A window that only reads the journal comes to the same.
        var other = new History(Shots.Crane());
        foreach (var step in history.Steps.Skip(1))
        {
            other.Append(step.Entry!);
        }
        Assert.Equal((1, 7), Now(other));
    }

    [Fact]
    public void What_others_build_on_cannot_be_taken_back_by_itself()
    {
        var history = new History(Shots.Crane());
        history.Append(new EditEntry(new AddNodes([new GroupNode { Id = "boat", Name = "Boat" }])));
        history.Append(new EditEntry(new Rename("boat", "Ferry")), isForeign: true);
        var refusal = Assert.Throws<Refusal>(() => history.Append(history.Undo!.Value.Entry));
        Assert.Contains("builds on it", refusal.Message, StringComparison.Ordinal);
        Assert.Equal(2, history.Revision);
    }

    [Fact]
    public void A_line_whose_answer_was_lost_is_not_made_twice()
    {
        var history = new History(Shots.Crane());
        history.Append(Set(Lift, 5, "a"));
        history.Append(Set(Swing, 7, "b"));
        // The server has taken the first, another window came after it, and we know of neither.
        var (pending, dropped) = Merge(ref history, 0, [Set(Lift, 5, "a"), Set(Lift, 6, "theirs")]);
        Assert.Equal(["b"], pending.Select(p => p.Id));
        Assert.Equal((0, 3), (dropped, history.Revision));
        Assert.Equal((6, 7), Now(history));
    }

    [Fact]
    public void An_undo_that_was_not_sent_yet_takes_back_the_same_after_others()
    {
        var history = new History(Shots.Crane());
        history.Append(Set(Lift, 5, "a"));
        history.Append(history.Undo!.Value.Entry with { Id = "u" });
        Assert.Equal(new RestoreEntry(0) { Id = "u" }, history.Head.Entry);
        var (pending, _) = Merge(ref history, 1, [Set(Swing, 7, "theirs")]);
        Assert.Equal([new LeaveOutEntry(1) { Id = "u" }], pending);
        Assert.Equal((1, 7), Now(history));
        history.Append(history.Redo!.Value.Entry);
        Assert.Equal((5, 7), Now(history));
    }

    [Fact]
    public void What_no_longer_fits_is_left_out_and_counted()
    {
        var history = new History(Shots.Crane());
        history.Append(new EditEntry(new Rename("hook", "Claw")) { Id = "a" });
        var (pending, dropped) = Merge(ref history, 0, [new EditEntry(new RemoveNodes(["hook"])) { Id = "theirs" }]);
        Assert.Equal((0, 1), (pending.Count, dropped));
    }

    [Fact]
    public void A_long_history_finds_every_state_though_it_holds_few_of_them() => Laws.ForSeeds((dice, _) =>
    {
        var history = new History(Shots.Crane());
        var lifts = new List<double> { 1 };
        for (var i = 1; i <= 600; i++)
        {
            if (dice.Next(8) == 0 && history.Undo is { } undo)
            {
                history.Append(undo.Entry);
            }
            else
            {
                history.Append(Set(Lift, i, $"{i}"));
            }
            lifts.Add(Now(history).Item1);
        }
        for (var n = 0; n < 40; n++)
        {
            var at = dice.Next(lifts.Count);
            Assert.Equal(lifts[at], history.StateAt(at).Channel(Lift).Value);
        }
    }, 20);

    [Fact]
    public void A_line_that_cannot_be_read_leaves_the_state_as_it_was()
    {
        var history = new History(Shots.Crane());
        history.Append(Set(Lift, 5, "a"));
        history.AppendUnreadable();
        Assert.Equal((2, (5d, 90d)), (history.Revision, Now(history)));
        Assert.Equal(5, history.StateAt(2).Channel(Lift).Value);
    }
}
