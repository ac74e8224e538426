using Bradymotus.Core.Editing;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Serialization;

namespace Bradymotus.Core.Tests;

/// <summary>Several windows, one journal; answers that are lost; states that are made again.</summary>
public class HistoryMergeTests
{
    private static readonly ChannelAddress Lift = Shots.At("base/transform.translate.y"), Swing = Shots.At("arm/transform.rotate.z");

    private static EditEntry Set(ChannelAddress address, double value, string id) => new(new SetValues([new(address, value)])) { Id = id };

    private static (double, double) Now(History history) => (history.Current.Channel(Lift).Value, history.Current.Channel(Swing).Value);

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
        var (pending, dropped) = history.Merge(0, [Set(Lift, 5, "a"), Set(Lift, 6, "theirs")]);
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
        var (pending, _) = history.Merge(1, [Set(Swing, 7, "theirs")]);
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
        var (pending, dropped) = history.Merge(0, [new EditEntry(new RemoveNodes(["hook"])) { Id = "theirs" }]);
        Assert.Equal((0, 1), (pending.Count, dropped));
    }

    /// <summary>Windows that do and undo at random, a server that takes lines or says what was missed, and answers that get lost now and then.</summary>
    [Fact]
    public void Windows_come_to_the_same_shot_and_every_line_counts_once() => Laws.ForSeeds((dice, seed) =>
    {
        var server = new History(Shots.Crane());
        var windows = Enumerable.Range(0, 3).Select(i => new Window(new History(Shots.Crane()), $"{i}")).ToList();
        for (var i = 0; i < 60; i++)
        {
            var window = windows[dice.Next(3)];
            switch (dice.Next(6))
            {
                case 0 when window.History.Undo is { } undo:
                    window.Do(undo.Entry);
                    break;
                case 1 when window.History.Redo is { } redo:
                    window.Do(redo.Entry);
                    break;
                case 2:
                    window.Send(server, loseAnswer: dice.Next(3) == 0);
                    break;
                default:
                    window.Do(new EditEntry(new SetKeys(dice.Next(30), [new(dice.Next(2) == 0 ? Lift : Swing, i)])));
                    break;
            }
        }
        foreach (var window in windows.Concat(windows))
        {
            window.Send(server, loseAnswer: false);
        }
        var ids = server.Steps.Skip(1).Select(s => s.Entry!.Id).ToList();
        Assert.Equal(ids.Count, ids.Distinct().Count());
        var expected = ShotJson.Write(server.Current);
        foreach (var window in windows)
        {
            Assert.Empty(window.Pending);
            window.Catch(server);
            Assert.Equal(expected, ShotJson.Write(window.History.Current));
        }
        // Opened from the journal alone it is the same again, and so is every earlier state.
        var opened = new History(Shots.Crane());
        foreach (var step in server.Steps.Skip(1))
        {
            opened.Append(ShotJson.Read<JournalEntry>(ShotJson.Write(step.Entry!), "entry"));
        }
        Assert.Equal(expected, ShotJson.Write(opened.Current));
        var revision = dice.Next(server.Revision + 1);
        Assert.Equal(ShotJson.Write(server.StateAt(revision)), ShotJson.Write(opened.StateAt(revision)));
    }, 150);

    private sealed class Window(History history, string name)
    {
        private int _made;
        private int _confirmed;

        public History History => history;

        public List<JournalEntry> Pending { get; private set; } = [];

        public void Do(JournalEntry entry)
        {
            entry = entry with { Id = $"{name}-{_made++}" };
            try
            {
                history.Append(entry);
                Pending.Add(entry);
            }
            catch (Refusal)
            {
                // Taking back what others build on.
            }
        }

        public void Send(History server, bool loseAnswer)
        {
            while (Pending.Count > 0)
            {
                var missed = server.Steps.Where(s => s.Revision > _confirmed).Select(s => s.Entry!).ToList();
                var known = missed.Select(m => m.Id).ToHashSet();
                if (missed.Any(m => !m.Id!.StartsWith(name, StringComparison.Ordinal)))
                {
                    (var pending, _) = history.Merge(_confirmed, missed);
                    Pending = [.. pending];
                    _confirmed = server.Revision;
                    continue;
                }
                foreach (var entry in Pending.Where(p => !known.Contains(p.Id)))
                {
                    server.Append(entry);
                }
                if (loseAnswer)
                {
                    return;
                }
                _confirmed = server.Revision;
                Pending.Clear();
            }
        }

        public void Catch(History server)
        {
            foreach (var step in server.Steps.Where(s => s.Revision > history.Revision))
            {
                history.Append(step.Entry!, isForeign: true);
            }
        }
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
